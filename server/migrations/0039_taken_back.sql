CREATE TABLE "taken_back" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"read_at" timestamp with time zone NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"reason" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "taken_back" ADD CONSTRAINT "taken_back_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "taken_back_once" ON "taken_back" USING btree ("installation_id","read_at");
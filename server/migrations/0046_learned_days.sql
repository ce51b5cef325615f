CREATE TABLE "learned_days" (
	"installation_id" integer PRIMARY KEY NOT NULL,
	"read_as" text NOT NULL,
	"since" timestamp with time zone,
	"through" timestamp with time zone NOT NULL,
	"days" jsonb NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
ALTER TABLE "learned_days" ADD CONSTRAINT "learned_days_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE cascade ON UPDATE no action;
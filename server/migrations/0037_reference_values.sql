CREATE TABLE "reference_values" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"shown" double precision NOT NULL,
	"reference" double precision NOT NULL,
	"uncertainty" double precision NOT NULL,
	"unit" text NOT NULL,
	"read_with" text NOT NULL,
	"error" double precision NOT NULL,
	"error_uncertainty" double precision NOT NULL,
	"operator" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "reference_values" ADD CONSTRAINT "reference_values_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "reference_values_by_installation" ON "reference_values" USING btree ("installation_id","at");
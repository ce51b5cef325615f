CREATE TABLE "device_numbers" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"held" jsonb NOT NULL,
	"given" jsonb NOT NULL,
	"operator" text
);
--> statement-breakpoint
CREATE TABLE "hours_run" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"hours" double precision NOT NULL
);
--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "check_first" text DEFAULT 'when-sound' NOT NULL;--> statement-breakpoint
ALTER TABLE "device_numbers" ADD CONSTRAINT "device_numbers_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hours_run" ADD CONSTRAINT "hours_run_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "device_numbers_by_installation" ON "device_numbers" USING btree ("installation_id","at");
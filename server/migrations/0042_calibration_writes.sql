CREATE TABLE "calibration_writes" (
	"id" serial PRIMARY KEY NOT NULL,
	"visit_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"action_id" uuid,
	"fingerprint" text,
	"wanted" jsonb NOT NULL,
	"settled_at" timestamp with time zone,
	"problem" text
);
--> statement-breakpoint
ALTER TABLE "calibration_writes" ADD CONSTRAINT "calibration_writes_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;
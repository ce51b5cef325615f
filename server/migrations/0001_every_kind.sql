CREATE TABLE "corrections" (
	"id" serial PRIMARY KEY NOT NULL,
	"visit_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"text" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "school_choices" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"schools" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "solution_uses" (
	"id" serial PRIMARY KEY NOT NULL,
	"lot_id" integer NOT NULL,
	"visit_id" uuid,
	"at" timestamp with time zone NOT NULL,
	"milliliters" double precision NOT NULL,
	"operator" text NOT NULL,
	"reason" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "trips" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"operator" text NOT NULL,
	"positions" jsonb NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "calibrations" ADD COLUMN "characteristic" jsonb;--> statement-breakpoint
ALTER TABLE "calibrations" ADD COLUMN "uncertainty" jsonb;--> statement-breakpoint
ALTER TABLE "calibrations" ADD COLUMN "baseline" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "setting" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "kind" text DEFAULT 'ph' NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "authority_rule" text;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "authority_days" integer;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "body" text;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "water" text;--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "shown" double precision;--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "signal" double precision;--> statement-breakpoint
ALTER TABLE "solution_lots" ADD COLUMN "volume" double precision DEFAULT 500 NOT NULL;--> statement-breakpoint
ALTER TABLE "solution_lots" ADD COLUMN "storage" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "solution_lots" ADD COLUMN "discarded_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD COLUMN "action_id" uuid;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "procedure" text;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "settings" jsonb;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "trip_id" uuid;--> statement-breakpoint
ALTER TABLE "solution_uses" ADD CONSTRAINT "solution_uses_lot_id_solution_lots_id_fk" FOREIGN KEY ("lot_id") REFERENCES "public"."solution_lots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_trip_id_trips_id_fk" FOREIGN KEY ("trip_id") REFERENCES "public"."trips"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "visit_entries_once" ON "visit_entries" USING btree ("visit_id","action_id");--> statement-breakpoint
-- What was recorded of pH sensors so far is carried over into the columns and names that serve every kind.
UPDATE "calibrations" SET
	"characteristic" = jsonb_build_object('zero', "zero", 'slopeEfficiency', "slope_efficiency"),
	"uncertainty" = jsonb_build_object('zero', "zero_uncertainty", 'slopeEfficiency', "slope_efficiency_uncertainty");
--> statement-breakpoint
UPDATE "readings" SET "shown" = "ph", "signal" = "millivolts";
--> statement-breakpoint
UPDATE "devices" SET "shows" = 'signal' WHERE "shows" = 'millivolt';
--> statement-breakpoint
UPDATE "visits" SET
	"procedure" = 'ph-' || "kind",
	"settings" = jsonb_build_object('standards', jsonb_build_object('first', "first_standard", 'second', "second_standard"), 'opening', '{}'::jsonb);
--> statement-breakpoint
-- Fouling was kept in mV; one pH is 58 mV of an electrode of 98 % at 25 degC, and falls as the signal rises.
UPDATE "drift_observations" SET "fouling" = -"fouling" / 58.0;
--> statement-breakpoint
UPDATE "visit_entries" SET "entry" = "entry" || jsonb_build_object('step',
	CASE "entry"->>'step'
		WHEN 'found-buffer' THEN 'found-standard'
		WHEN 'first-buffer' THEN 'point-1'
		WHEN 'rinse' THEN 'rinse-2'
		WHEN 'second-buffer' THEN 'point-2'
		ELSE "entry"->>'step'
	END) WHERE "entry" ? 'step';
--> statement-breakpoint
UPDATE "visit_entries" SET "entry" = jsonb_set("entry", '{reading}', ("entry"->'reading') - 'millivolts' - 'millivoltsUncertainty' ||
	jsonb_build_object('signal', "entry"->'reading'->'millivolts', 'signalUncertainty', "entry"->'reading'->'millivoltsUncertainty'))
	WHERE "entry"->>'type' = 'captured';
--> statement-breakpoint
-- A check that went on to a calibration had a line of its own; it is the decision to adjust at the verdict.
UPDATE "visit_entries" SET "entry" = '{"type":"decided","step":"verdict","decision":"adjust","proposed":"adjust","note":null}'::jsonb
	WHERE "entry"->>'type' = 'went-on';
--> statement-breakpoint
UPDATE "visit_entries" SET "entry" = "entry" - 'slopeEfficiency' - 'zero' ||
	jsonb_build_object('characteristic', jsonb_build_object('slopeEfficiency', "entry"->'slopeEfficiency', 'zero', "entry"->'zero'))
	WHERE "entry"->>'type' = 'applied';
--> statement-breakpoint
ALTER TABLE "calibrations" ALTER COLUMN "characteristic" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "calibrations" ALTER COLUMN "uncertainty" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "readings" ALTER COLUMN "shown" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "visits" ALTER COLUMN "procedure" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "visits" ALTER COLUMN "settings" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "calibrations" DROP COLUMN "zero";--> statement-breakpoint
ALTER TABLE "calibrations" DROP COLUMN "slope_efficiency";--> statement-breakpoint
ALTER TABLE "calibrations" DROP COLUMN "zero_uncertainty";--> statement-breakpoint
ALTER TABLE "calibrations" DROP COLUMN "slope_efficiency_uncertainty";--> statement-breakpoint
ALTER TABLE "positions" DROP COLUMN "quantity";--> statement-breakpoint
ALTER TABLE "readings" DROP COLUMN "ph";--> statement-breakpoint
ALTER TABLE "readings" DROP COLUMN "millivolts";--> statement-breakpoint
ALTER TABLE "visits" DROP COLUMN "kind";--> statement-breakpoint
ALTER TABLE "visits" DROP COLUMN "first_standard";--> statement-breakpoint
ALTER TABLE "visits" DROP COLUMN "second_standard";
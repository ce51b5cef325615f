ALTER TABLE "devices" ADD COLUMN "adjusts_by" text DEFAULT 'numbers' NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "calibration_key" text DEFAULT 'CAL' NOT NULL;
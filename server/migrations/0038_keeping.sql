ALTER TABLE "positions" ADD COLUMN "keep_seconds" integer DEFAULT 60 NOT NULL;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "keep_readings_days" integer DEFAULT 400;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "keep_hours_days" integer;
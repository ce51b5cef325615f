ALTER TABLE "drift_observations" ADD COLUMN "verified" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD COLUMN "assessment" text;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "snapshot" text;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "record" text;
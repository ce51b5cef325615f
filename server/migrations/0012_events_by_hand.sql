ALTER TABLE "events" ADD COLUMN "operator" text;--> statement-breakpoint
ALTER TABLE "events" ADD COLUMN "by_hand" boolean DEFAULT false NOT NULL;
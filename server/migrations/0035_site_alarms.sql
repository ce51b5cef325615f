CREATE TABLE "work_marks" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "alarms" ALTER COLUMN "position_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "alarms" ADD COLUMN "subject" text;
ALTER TABLE "alarms" ADD COLUMN "gone_at" timestamp with time zone;--> statement-breakpoint
UPDATE "alarms" SET "gone_at" = (SELECT min("at") FROM "alarm_entries" WHERE "alarm_id" = "alarms"."id" AND "what" = 'gone');--> statement-breakpoint
CREATE INDEX "alarms_by_end" ON "alarms" USING btree ("gone_at");
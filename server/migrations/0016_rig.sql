CREATE TABLE "position_codes" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"code" text NOT NULL,
	"until" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "subject" text;--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "subject_id" integer;--> statement-breakpoint
UPDATE "changes" SET "subject" = CASE WHEN "position_id" IS NULL THEN 'site' ELSE 'position' END, "subject_id" = "position_id";--> statement-breakpoint
ALTER TABLE "changes" ALTER COLUMN "subject" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "consumables" ADD COLUMN "lead_days" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "consumables" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "location" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "serial" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "firmware" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "operators" ADD COLUMN "initials" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "operators" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "places" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "places" ADD COLUMN "sort_order" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "places" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "device_id" integer;--> statement-breakpoint
UPDATE "positions" SET "device_id" = coalesce(
	(SELECT "device_id" FROM "installations" WHERE "position_id" = "positions"."id" ORDER BY "installed_at" DESC LIMIT 1),
	(SELECT min("id") FROM "devices")
);--> statement-breakpoint
ALTER TABLE "positions" ALTER COLUMN "device_id" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "starting_days" integer;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "water_kind" text;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "sort_order" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "sensors" ADD COLUMN "bought_on" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "sensors" ADD COLUMN "keeps_days" integer;--> statement-breakpoint
ALTER TABLE "sensors" ADD COLUMN "storage" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "sensors" ADD COLUMN "note" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "sensors" ADD COLUMN "travels" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "sensors" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "position_codes" ADD CONSTRAINT "position_codes_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "position_codes_by_code" ON "position_codes" USING btree ("code");--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_device_id_devices_id_fk" FOREIGN KEY ("device_id") REFERENCES "public"."devices"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "changes_by_subject" ON "changes" USING btree ("subject","subject_id","id");
CREATE TABLE "alarm_entries" (
	"id" serial PRIMARY KEY NOT NULL,
	"alarm_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"what" text NOT NULL,
	"operator" text,
	"until" timestamp with time zone,
	"reason" text
);
--> statement-breakpoint
CREATE TABLE "alarms" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"kind" text NOT NULL,
	"raised_at" timestamp with time zone NOT NULL,
	"value" double precision,
	"limit_value" double precision
);
--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "limits" jsonb;--> statement-breakpoint
ALTER TABLE "alarm_entries" ADD CONSTRAINT "alarm_entries_alarm_id_alarms_id_fk" FOREIGN KEY ("alarm_id") REFERENCES "public"."alarms"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "alarms" ADD CONSTRAINT "alarms_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "alarm_entries_by_alarm" ON "alarm_entries" USING btree ("alarm_id");--> statement-breakpoint
CREATE INDEX "alarms_by_position" ON "alarms" USING btree ("position_id","raised_at");
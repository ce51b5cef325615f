-- Brings a database of the oldest supported version (schema 0003) to the baseline: what was migrations 0004 to 0047.
ALTER TABLE "devices" DROP COLUMN "stand_in";
--> statement-breakpoint
ALTER TABLE "positions" ALTER COLUMN "kind" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "findings" jsonb;
--> statement-breakpoint
-- Visits that were begun at the same moment at one sensor: the newest goes on, the others end and say why.
INSERT INTO "visit_entries" ("visit_id", "seq", "at", "operator", "entry")
SELECT v."id", coalesce((SELECT max(e."seq") FROM "visit_entries" e WHERE e."visit_id" = v."id"), 0) + 1, now(), v."operator",
  '{"type": "abandoned", "reason": "Begun twice at once; the other visit goes on."}'
FROM "visits" v
WHERE v."closed_at" IS NULL AND EXISTS (
  SELECT 1 FROM "visits" w
  WHERE w."installation_id" = v."installation_id" AND w."closed_at" IS NULL
    AND (w."started_at", w."id") > (v."started_at", v."id")
);--> statement-breakpoint
UPDATE "visits" v SET "closed_at" = now(), "outcome" = 'abandoned', "holder_client" = NULL, "holder_name" = NULL, "held_since" = NULL
WHERE v."closed_at" IS NULL AND EXISTS (
  SELECT 1 FROM "visits" w
  WHERE w."installation_id" = v."installation_id" AND w."closed_at" IS NULL
    AND (w."started_at", w."id") > (v."started_at", v."id")
);--> statement-breakpoint
CREATE UNIQUE INDEX "one_open_visit" ON "visits" USING btree ("installation_id") WHERE "visits"."closed_at" is null;
--> statement-breakpoint
CREATE TABLE "actions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"answer" jsonb
);
--> statement-breakpoint
ALTER TABLE "drift_observations" ADD COLUMN "verified" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD COLUMN "assessment" text;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "snapshot" text;--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "record" text;
--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "adjusts_by" text DEFAULT 'numbers' NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "calibration_key" text DEFAULT 'CAL' NOT NULL;
--> statement-breakpoint
CREATE TABLE "changes" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"position_id" integer,
	"field" text NOT NULL,
	"before" jsonb,
	"after" jsonb,
	"valid_from" timestamp with time zone NOT NULL,
	"why" text,
	"undoes" integer
);
--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "changes_by_position" ON "changes" USING btree ("position_id","id");
--> statement-breakpoint
ALTER TABLE "events" ADD COLUMN "operator" text;--> statement-breakpoint
ALTER TABLE "events" ADD COLUMN "by_hand" boolean DEFAULT false NOT NULL;
--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "while_calibrating" text DEFAULT 'value' NOT NULL;
--> statement-breakpoint
CREATE TABLE "instruments" (
	"id" serial PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"serial" text NOT NULL,
	"calibrated_at" timestamp with time zone,
	"uncertainty" double precision,
	"unit" text NOT NULL,
	"added_at" timestamp with time zone NOT NULL,
	"added_by" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "photos" (
	"sha256" text PRIMARY KEY NOT NULL,
	"type" text NOT NULL,
	"bytes" "bytea" NOT NULL,
	"added_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "events" ADD COLUMN "photo" text;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_photo_photos_sha256_fk" FOREIGN KEY ("photo") REFERENCES "public"."photos"("sha256") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
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
--> statement-breakpoint
ALTER TABLE "changes" DROP CONSTRAINT "changes_position_id_positions_id_fk";
--> statement-breakpoint
DROP INDEX "changes_by_position";--> statement-breakpoint
ALTER TABLE "changes" DROP COLUMN "position_id";
--> statement-breakpoint
CREATE TABLE "imports" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"what" text NOT NULL,
	"file_name" text NOT NULL,
	"sha256" text NOT NULL,
	"report" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "done_at" timestamp with time zone;--> statement-breakpoint
UPDATE "imports" SET "done_at" = "at";--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "import_id" integer;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_import_id_imports_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."imports"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "visits_by_end" ON "visits" USING btree ("closed_at");
--> statement-breakpoint
CREATE TABLE "own_standards" (
	"id" serial PRIMARY KEY NOT NULL,
	"code" text NOT NULL,
	"kind" text NOT NULL,
	"label" text NOT NULL,
	"printed" jsonb NOT NULL,
	"uncertainty" double precision NOT NULL,
	"against" text,
	"ion" text,
	"caution" text DEFAULT '' NOT NULL,
	"archived_at" timestamp with time zone,
	CONSTRAINT "own_standards_code_unique" UNIQUE("code")
);
--> statement-breakpoint
ALTER TABLE "operators" ADD COLUMN "reader" jsonb DEFAULT '{}'::jsonb NOT NULL;
--> statement-breakpoint
ALTER TABLE "consumable_renewals" ADD COLUMN "undone_at" timestamp with time zone;
--> statement-breakpoint
CREATE TABLE "own_templates" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"water_kind" text,
	"values" jsonb NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "photo" text;--> statement-breakpoint
ALTER TABLE "devices" ADD CONSTRAINT "devices_photo_photos_sha256_fk" FOREIGN KEY ("photo") REFERENCES "public"."photos"("sha256") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "turns" boolean DEFAULT false NOT NULL;
--> statement-breakpoint
CREATE TABLE "credentials" (
	"operator_id" integer PRIMARY KEY NOT NULL,
	"password" text,
	"pin" text
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"token" text PRIMARY KEY NOT NULL,
	"operator_id" integer NOT NULL,
	"by" text NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"last_used_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "operators" ADD COLUMN "role" text DEFAULT 'operator' NOT NULL;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "sign_in" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "credentials" ADD CONSTRAINT "credentials_operator_id_operators_id_fk" FOREIGN KEY ("operator_id") REFERENCES "public"."operators"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_operator_id_operators_id_fk" FOREIGN KEY ("operator_id") REFERENCES "public"."operators"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
CREATE TABLE "backup_settings" (
	"id" serial PRIMARY KEY NOT NULL,
	"folder" text DEFAULT '' NOT NULL,
	"nightly" boolean DEFAULT true NOT NULL,
	"hour" integer DEFAULT 2 NOT NULL,
	"keep_days" integer DEFAULT 7 NOT NULL,
	"keep_weeks" integer DEFAULT 4 NOT NULL,
	"keep_months" integer DEFAULT 12 NOT NULL,
	"passphrase" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "backups" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text,
	"file" text NOT NULL,
	"problem" text
);
--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "uid" uuid DEFAULT gen_random_uuid() NOT NULL;
--> statement-breakpoint
CREATE TABLE "connections" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"protocol" text NOT NULL,
	"settings" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "connection_id" integer;--> statement-breakpoint
ALTER TABLE "devices" ADD COLUMN "address" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "mapping" jsonb;--> statement-breakpoint
ALTER TABLE "devices" ADD CONSTRAINT "devices_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
-- What stood with each device is a connection with devices on it; the register map that was the only one is a mapping.
INSERT INTO "connections" ("name", "protocol", "settings")
SELECT DISTINCT 'Modbus at ' || (link->>'host') || ':' || (link->>'port'), 'modbus-tcp',
  jsonb_build_object('host', link->'host', 'port', link->'port')
FROM "devices" WHERE "link" IS NOT NULL AND jsonb_typeof("link") = 'object';--> statement-breakpoint
UPDATE "devices" d SET "connection_id" = c.id, "address" = jsonb_build_object('unit', d.link->'unit')
FROM "connections" c
WHERE jsonb_typeof(d.link) = 'object' AND c.settings->'host' = d.link->'host' AND c.settings->'port' = d.link->'port';--> statement-breakpoint
UPDATE "positions" p SET "mapping" = '{"countsFrom": 0, "value": {"at": {"table": "input", "address": 4, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "signal": {"at": {"table": "input", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "temperature": {"at": {"table": "input", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "glass": {"at": {"table": "input", "address": 7, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "junction": {"at": {"table": "input", "address": 9, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "hold": {"at": {"table": "holding", "address": 4, "type": "uint16", "order": "ABCD"}, "on": 1, "off": 0}}'::jsonb || jsonb_build_object('writes', d.writable, 'calibration',
  CASE p.kind
    WHEN 'ph' THEN '{"slopeEfficiency": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "zero": {"at": {"table": "holding", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    WHEN 'orp' THEN '{"gain": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "offset": {"at": {"table": "holding", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    WHEN 'conductivity' THEN '{"factor": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "zero": {"at": {"table": "holding", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    WHEN 'ion' THEN '{"slopeEfficiency": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "zero": {"at": {"table": "holding", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "temperature": {"at": {"table": "holding", "address": 6, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "slopeEfficiency2": {"at": {"table": "holding", "address": 8, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "zero2": {"at": {"table": "holding", "address": 10, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "temperature2": {"at": {"table": "holding", "address": 12, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    WHEN 'chlorine' THEN '{"gain": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "offset": {"at": {"table": "holding", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    WHEN 'nitrate-optical' THEN '{"gain": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}, "offset": {"at": {"table": "holding", "address": 2, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    WHEN 'temperature' THEN '{"offset": {"at": {"table": "holding", "address": 0, "type": "float32", "order": "ABCD"}, "unit": "", "scale": 1, "offset": 0}}'::jsonb
    ELSE '{}'::jsonb END)
FROM "devices" d WHERE d.id = p.device_id AND d.connection_id IS NOT NULL;--> statement-breakpoint
ALTER TABLE "devices" DROP COLUMN "writable";--> statement-breakpoint
ALTER TABLE "devices" DROP COLUMN "link";
--> statement-breakpoint
ALTER TABLE "readings" ALTER COLUMN "shown" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "readings" ALTER COLUMN "temperature" DROP NOT NULL;
--> statement-breakpoint
CREATE TABLE "holds" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"visit_id" uuid,
	"held_at" timestamp with time zone NOT NULL,
	"held_by" text NOT NULL,
	"released_at" timestamp with time zone,
	"released_by" text,
	"by_hand" boolean DEFAULT false NOT NULL,
	"problem" text
);
--> statement-breakpoint
ALTER TABLE "holds" ADD CONSTRAINT "holds_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
CREATE TABLE "connection_secrets" (
	"connection_id" integer PRIMARY KEY NOT NULL,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "ingest_tokens" (
	"device_id" integer PRIMARY KEY NOT NULL,
	"token" text NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"made_by" text NOT NULL,
	"used_at" timestamp with time zone,
	CONSTRAINT "ingest_tokens_token_unique" UNIQUE("token")
);
--> statement-breakpoint
CREATE TABLE "mapping_profiles" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"mapping" jsonb NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"made_by" text NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "connection_secrets" ADD CONSTRAINT "connection_secrets_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ingest_tokens" ADD CONSTRAINT "ingest_tokens_device_id_devices_id_fk" FOREIGN KEY ("device_id") REFERENCES "public"."devices"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
CREATE TABLE "reading_hours" (
	"installation_id" integer NOT NULL,
	"hour" integer NOT NULL,
	"at" integer[] NOT NULL,
	"shown" real[] NOT NULL,
	"signal" real[] NOT NULL,
	"temperature" real[] NOT NULL,
	"state" smallint[] NOT NULL,
	CONSTRAINT "reading_hours_installation_id_hour_pk" PRIMARY KEY("installation_id","hour")
);
--> statement-breakpoint
CREATE TABLE "roll_ups" (
	"installation_id" integer NOT NULL,
	"hours" smallint NOT NULL,
	"start" integer NOT NULL,
	"count" integer NOT NULL,
	"good" integer NOT NULL,
	"min" real,
	"max" real,
	"mean" double precision,
	"squares" double precision NOT NULL,
	"temperature" real,
	CONSTRAINT "roll_ups_installation_id_hours_start_pk" PRIMARY KEY("installation_id","hours","start")
);
--> statement-breakpoint
ALTER TABLE "readings" ADD COLUMN "state" smallint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "reading_hours" ADD CONSTRAINT "reading_hours_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "roll_ups" ADD CONSTRAINT "roll_ups_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
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
--> statement-breakpoint
CREATE TABLE "work_marks" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "alarms" ALTER COLUMN "position_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "alarms" ADD COLUMN "subject" text;
--> statement-breakpoint
CREATE TABLE "mail_servers" (
	"id" serial PRIMARY KEY NOT NULL,
	"host" text NOT NULL,
	"port" integer NOT NULL,
	"security" text NOT NULL,
	"user" text NOT NULL,
	"sender" text NOT NULL,
	"set_at" timestamp with time zone NOT NULL,
	"set_by" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "messages" (
	"id" serial PRIMARY KEY NOT NULL,
	"recipient_id" integer NOT NULL,
	"key" text NOT NULL,
	"subject" text NOT NULL,
	"body" text NOT NULL,
	"data" jsonb NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"next_try_at" timestamp with time zone,
	"tries" integer DEFAULT 0 NOT NULL,
	"sent_at" timestamp with time zone,
	"problem" text
);
--> statement-breakpoint
CREATE TABLE "recipients" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"by" text NOT NULL,
	"address" text NOT NULL,
	"connection_id" integer,
	"wishes" jsonb NOT NULL,
	"since" timestamp with time zone NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "telling_secrets" (
	"of" text PRIMARY KEY NOT NULL,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "told_alarms" (
	"recipient_id" integer NOT NULL,
	"alarm_id" integer NOT NULL,
	"last_at" timestamp with time zone NOT NULL,
	"gone_told_at" timestamp with time zone,
	CONSTRAINT "told_alarms_recipient_id_alarm_id_pk" PRIMARY KEY("recipient_id","alarm_id")
);
--> statement-breakpoint
ALTER TABLE "messages" ADD CONSTRAINT "messages_recipient_id_recipients_id_fk" FOREIGN KEY ("recipient_id") REFERENCES "public"."recipients"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recipients" ADD CONSTRAINT "recipients_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "told_alarms" ADD CONSTRAINT "told_alarms_recipient_id_recipients_id_fk" FOREIGN KEY ("recipient_id") REFERENCES "public"."recipients"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "told_alarms" ADD CONSTRAINT "told_alarms_alarm_id_alarms_id_fk" FOREIGN KEY ("alarm_id") REFERENCES "public"."alarms"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "messages_by_key" ON "messages" USING btree ("recipient_id","key");--> statement-breakpoint
CREATE INDEX "messages_waiting" ON "messages" USING btree ("next_try_at");
--> statement-breakpoint
CREATE TABLE "reference_values" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"shown" double precision NOT NULL,
	"reference" double precision NOT NULL,
	"uncertainty" double precision NOT NULL,
	"unit" text NOT NULL,
	"read_with" text NOT NULL,
	"error" double precision NOT NULL,
	"error_uncertainty" double precision NOT NULL,
	"operator" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "reference_values" ADD CONSTRAINT "reference_values_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "reference_values_by_installation" ON "reference_values" USING btree ("installation_id","at");
--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "keep_seconds" integer DEFAULT 60 NOT NULL;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "keep_readings_days" integer DEFAULT 400;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "keep_hours_days" integer;
--> statement-breakpoint
CREATE TABLE "taken_back" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"read_at" timestamp with time zone NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"reason" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "taken_back" ADD CONSTRAINT "taken_back_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "taken_back_once" ON "taken_back" USING btree ("installation_id","read_at");
--> statement-breakpoint
ALTER TABLE "actions" ADD COLUMN "fingerprint" text;--> statement-breakpoint
ALTER TABLE "backups" ADD COLUMN "settings_id" integer;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD COLUMN "fingerprint" text;--> statement-breakpoint
ALTER TABLE "backups" ADD CONSTRAINT "backups_settings_id_backup_settings_id_fk" FOREIGN KEY ("settings_id") REFERENCES "public"."backup_settings"("id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "alarms" ADD COLUMN "gone_at" timestamp with time zone;--> statement-breakpoint
UPDATE "alarms" SET "gone_at" = (SELECT min("at") FROM "alarm_entries" WHERE "alarm_id" = "alarms"."id" AND "what" = 'gone');--> statement-breakpoint
CREATE INDEX "alarms_by_end" ON "alarms" USING btree ("gone_at");
--> statement-breakpoint
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
--> statement-breakpoint
ALTER TABLE "instruments" ALTER COLUMN "calibrated_at" SET DATA TYPE date USING ("calibrated_at" AT TIME ZONE 'UTC')::date;--> statement-breakpoint
ALTER TABLE "sensors" ALTER COLUMN "bought_on" SET DATA TYPE date USING ("bought_on" AT TIME ZONE 'UTC')::date;--> statement-breakpoint
ALTER TABLE "solution_lots" ALTER COLUMN "expires_on" SET DATA TYPE date USING ("expires_on" AT TIME ZONE 'UTC')::date;
--> statement-breakpoint
ALTER TABLE "calibrations" ADD COLUMN "relative" jsonb;
--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "known_readings" jsonb;
--> statement-breakpoint
CREATE TABLE "learned_days" (
	"installation_id" integer PRIMARY KEY NOT NULL,
	"read_as" text NOT NULL,
	"since" timestamp with time zone,
	"through" timestamp with time zone NOT NULL,
	"days" jsonb NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
ALTER TABLE "learned_days" ADD CONSTRAINT "learned_days_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
UPDATE "alarm_entries" SET "what" = CASE "what" WHEN 'seen' THEN 'acknowledged' WHEN 'quiet' THEN 'shelved' WHEN 'gone' THEN 'returned' ELSE "what" END;

CREATE TABLE "actions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"fingerprint" text,
	"at" timestamp with time zone NOT NULL,
	"answer" jsonb
);
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
	"position_id" integer,
	"kind" text NOT NULL,
	"subject" text,
	"raised_at" timestamp with time zone NOT NULL,
	"value" double precision,
	"limit_value" double precision,
	"gone_at" timestamp with time zone
);
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
	"settings_id" integer,
	"problem" text
);
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
CREATE TABLE "calibrations" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"visit_id" uuid,
	"at" timestamp with time zone NOT NULL,
	"characteristic" jsonb NOT NULL,
	"uncertainty" jsonb NOT NULL,
	"relative" jsonb,
	"adopted" boolean NOT NULL,
	"baseline" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "changes" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"subject" text NOT NULL,
	"subject_id" integer,
	"field" text NOT NULL,
	"before" jsonb,
	"after" jsonb,
	"valid_from" timestamp with time zone NOT NULL,
	"turns" boolean DEFAULT false NOT NULL,
	"why" text,
	"undoes" integer
);
--> statement-breakpoint
CREATE TABLE "confirmed_causes" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"cause" text NOT NULL,
	"proposed" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "connection_secrets" (
	"connection_id" integer PRIMARY KEY NOT NULL,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "connections" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"protocol" text NOT NULL,
	"settings" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "consumable_renewals" (
	"id" serial PRIMARY KEY NOT NULL,
	"consumable_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"undone_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "consumables" (
	"id" serial PRIMARY KEY NOT NULL,
	"place_id" integer NOT NULL,
	"name" text NOT NULL,
	"every_days" integer NOT NULL,
	"lead_days" integer DEFAULT 0 NOT NULL,
	"since" timestamp with time zone NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "corrections" (
	"id" serial PRIMARY KEY NOT NULL,
	"visit_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"text" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "credentials" (
	"operator_id" integer PRIMARY KEY NOT NULL,
	"password" text,
	"pin" text
);
--> statement-breakpoint
CREATE TABLE "device_numbers" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"held" jsonb NOT NULL,
	"given" jsonb NOT NULL,
	"operator" text
);
--> statement-breakpoint
CREATE TABLE "devices" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"shows" text NOT NULL,
	"adjusts_by" text DEFAULT 'numbers' NOT NULL,
	"calibration_key" text DEFAULT 'CAL' NOT NULL,
	"while_calibrating" text DEFAULT 'value' NOT NULL,
	"setting" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"connection_id" integer,
	"address" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"location" text DEFAULT '' NOT NULL,
	"serial" text DEFAULT '' NOT NULL,
	"firmware" text DEFAULT '' NOT NULL,
	"photo" text,
	"note" text DEFAULT '' NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "drift_observations" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"visit_id" uuid,
	"at" timestamp with time zone NOT NULL,
	"as_found" double precision,
	"as_left" double precision NOT NULL,
	"verified" boolean DEFAULT true NOT NULL,
	"uncertainty" double precision NOT NULL,
	"fouling" double precision,
	"adjusted" boolean NOT NULL
);
--> statement-breakpoint
CREATE TABLE "events" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"kind" text NOT NULL,
	"note" text NOT NULL,
	"operator" text,
	"by_hand" boolean DEFAULT false NOT NULL,
	"photo" text
);
--> statement-breakpoint
CREATE TABLE "exclusions" (
	"id" serial PRIMARY KEY NOT NULL,
	"visit_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"excluded" boolean NOT NULL,
	"reason" text NOT NULL
);
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
CREATE TABLE "hours_run" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"hours" double precision NOT NULL
);
--> statement-breakpoint
CREATE TABLE "imports" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"what" text NOT NULL,
	"file_name" text NOT NULL,
	"sha256" text NOT NULL,
	"report" jsonb NOT NULL,
	"done_at" timestamp with time zone
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
CREATE TABLE "installations" (
	"id" serial PRIMARY KEY NOT NULL,
	"sensor_id" integer NOT NULL,
	"position_id" integer NOT NULL,
	"device_id" integer NOT NULL,
	"installed_at" timestamp with time zone NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "instruments" (
	"id" serial PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"serial" text NOT NULL,
	"calibrated_at" date,
	"uncertainty" double precision,
	"unit" text NOT NULL,
	"added_at" timestamp with time zone NOT NULL,
	"added_by" text NOT NULL
);
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
CREATE TABLE "mapping_profiles" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"mapping" jsonb NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"made_by" text NOT NULL,
	"archived_at" timestamp with time zone
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
CREATE TABLE "moved_visits" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"moved_at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"to" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "operators" (
	"id" serial PRIMARY KEY NOT NULL,
	"site_id" integer NOT NULL,
	"name" text NOT NULL,
	"initials" text DEFAULT '' NOT NULL,
	"role" text DEFAULT 'operator' NOT NULL,
	"reader" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"archived_at" timestamp with time zone,
	CONSTRAINT "operators_name_unique" UNIQUE("name")
);
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
CREATE TABLE "own_templates" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"water_kind" text,
	"values" jsonb NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "photos" (
	"sha256" text PRIMARY KEY NOT NULL,
	"type" text NOT NULL,
	"bytes" "bytea" NOT NULL,
	"added_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "places" (
	"id" serial PRIMARY KEY NOT NULL,
	"site_id" integer NOT NULL,
	"name" text NOT NULL,
	"water" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"sort_order" integer DEFAULT 0 NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "position_codes" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"code" text NOT NULL,
	"until" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "positions" (
	"id" serial PRIMARY KEY NOT NULL,
	"place_id" integer NOT NULL,
	"code" text NOT NULL,
	"spot" text NOT NULL,
	"kind" text NOT NULL,
	"device_id" integer NOT NULL,
	"process_value" double precision NOT NULL,
	"process_temperature" double precision NOT NULL,
	"tolerance" double precision NOT NULL,
	"reliability" double precision DEFAULT 0.95 NOT NULL,
	"starting_days" integer,
	"floor_days" integer NOT NULL,
	"ceiling_days" integer NOT NULL,
	"method" text DEFAULT 'drift' NOT NULL,
	"fixed_days" integer,
	"in_use_hours" double precision,
	"hours_per_day" double precision,
	"check_first" text DEFAULT 'when-sound' NOT NULL,
	"consequence" integer DEFAULT 2 NOT NULL,
	"spare_lead_days" integer DEFAULT 21 NOT NULL,
	"keep_seconds" integer DEFAULT 60 NOT NULL,
	"cautions" jsonb NOT NULL,
	"authority_rule" text,
	"authority_days" integer,
	"body" text,
	"water" text,
	"water_kind" text,
	"mapping" jsonb,
	"limits" jsonb,
	"note" text DEFAULT '' NOT NULL,
	"sort_order" integer DEFAULT 0 NOT NULL,
	"archived_at" timestamp with time zone,
	CONSTRAINT "positions_code_unique" UNIQUE("code")
);
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
CREATE TABLE "readings" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"shown" double precision,
	"signal" double precision,
	"temperature" double precision,
	"state" smallint DEFAULT 0 NOT NULL
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
CREATE TABLE "school_choices" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"schools" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sensors" (
	"id" serial PRIMARY KEY NOT NULL,
	"serial_number" text NOT NULL,
	"kind" text NOT NULL,
	"model" text NOT NULL,
	"isothermal_ph" double precision DEFAULT 7 NOT NULL,
	"bought_on" date,
	"keeps_days" integer,
	"storage" text DEFAULT '' NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"travels" boolean DEFAULT false NOT NULL,
	"archived_at" timestamp with time zone
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
CREATE TABLE "sites" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"time_zone" text NOT NULL,
	"calendar_token" text DEFAULT md5(random()::text || clock_timestamp()::text) NOT NULL,
	"uid" uuid DEFAULT gen_random_uuid() NOT NULL,
	"sign_in" boolean DEFAULT false NOT NULL,
	"keep_readings_days" integer DEFAULT 400,
	"keep_hours_days" integer
);
--> statement-breakpoint
CREATE TABLE "solution_lots" (
	"id" serial PRIMARY KEY NOT NULL,
	"standard" text NOT NULL,
	"lot" text NOT NULL,
	"expires_on" date NOT NULL,
	"opened_on" timestamp with time zone,
	"life_after_opening_days" integer NOT NULL,
	"own_table" jsonb,
	"volume" double precision DEFAULT 500 NOT NULL,
	"storage" text DEFAULT '' NOT NULL,
	"discarded_at" timestamp with time zone
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
CREATE TABLE "taken_back" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"read_at" timestamp with time zone NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"reason" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "telling_secrets" (
	"of" text PRIMARY KEY NOT NULL,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "test_answers" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"feature" text NOT NULL,
	"answer" text NOT NULL
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
CREATE TABLE "trips" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"operator" text NOT NULL,
	"positions" jsonb NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "visit_entries" (
	"id" serial PRIMARY KEY NOT NULL,
	"visit_id" uuid NOT NULL,
	"seq" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"entry" jsonb NOT NULL,
	"action_id" uuid,
	"fingerprint" text,
	"assessment" text
);
--> statement-breakpoint
CREATE TABLE "visits" (
	"id" uuid PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"procedure" text NOT NULL,
	"settings" jsonb NOT NULL,
	"trip_id" uuid,
	"import_id" integer,
	"operator" text NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	"outcome" text,
	"findings" jsonb,
	"known_readings" jsonb,
	"snapshot" text,
	"record" text,
	"holder_client" text,
	"holder_name" text,
	"held_since" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "work_marks" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "alarm_entries" ADD CONSTRAINT "alarm_entries_alarm_id_alarms_id_fk" FOREIGN KEY ("alarm_id") REFERENCES "public"."alarms"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "alarms" ADD CONSTRAINT "alarms_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "backups" ADD CONSTRAINT "backups_settings_id_backup_settings_id_fk" FOREIGN KEY ("settings_id") REFERENCES "public"."backup_settings"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calibration_writes" ADD CONSTRAINT "calibration_writes_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calibrations" ADD CONSTRAINT "calibrations_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calibrations" ADD CONSTRAINT "calibrations_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "confirmed_causes" ADD CONSTRAINT "confirmed_causes_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "connection_secrets" ADD CONSTRAINT "connection_secrets_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consumable_renewals" ADD CONSTRAINT "consumable_renewals_consumable_id_consumables_id_fk" FOREIGN KEY ("consumable_id") REFERENCES "public"."consumables"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consumables" ADD CONSTRAINT "consumables_place_id_places_id_fk" FOREIGN KEY ("place_id") REFERENCES "public"."places"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "credentials" ADD CONSTRAINT "credentials_operator_id_operators_id_fk" FOREIGN KEY ("operator_id") REFERENCES "public"."operators"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "device_numbers" ADD CONSTRAINT "device_numbers_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "devices" ADD CONSTRAINT "devices_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "devices" ADD CONSTRAINT "devices_photo_photos_sha256_fk" FOREIGN KEY ("photo") REFERENCES "public"."photos"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "drift_observations" ADD CONSTRAINT "drift_observations_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "drift_observations" ADD CONSTRAINT "drift_observations_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_photo_photos_sha256_fk" FOREIGN KEY ("photo") REFERENCES "public"."photos"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "exclusions" ADD CONSTRAINT "exclusions_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "holds" ADD CONSTRAINT "holds_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hours_run" ADD CONSTRAINT "hours_run_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ingest_tokens" ADD CONSTRAINT "ingest_tokens_device_id_devices_id_fk" FOREIGN KEY ("device_id") REFERENCES "public"."devices"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "installations" ADD CONSTRAINT "installations_sensor_id_sensors_id_fk" FOREIGN KEY ("sensor_id") REFERENCES "public"."sensors"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "installations" ADD CONSTRAINT "installations_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "installations" ADD CONSTRAINT "installations_device_id_devices_id_fk" FOREIGN KEY ("device_id") REFERENCES "public"."devices"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "learned_days" ADD CONSTRAINT "learned_days_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "messages" ADD CONSTRAINT "messages_recipient_id_recipients_id_fk" FOREIGN KEY ("recipient_id") REFERENCES "public"."recipients"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "moved_visits" ADD CONSTRAINT "moved_visits_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "operators" ADD CONSTRAINT "operators_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "places" ADD CONSTRAINT "places_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "position_codes" ADD CONSTRAINT "position_codes_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_place_id_places_id_fk" FOREIGN KEY ("place_id") REFERENCES "public"."places"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_device_id_devices_id_fk" FOREIGN KEY ("device_id") REFERENCES "public"."devices"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reading_hours" ADD CONSTRAINT "reading_hours_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "readings" ADD CONSTRAINT "readings_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recipients" ADD CONSTRAINT "recipients_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reference_values" ADD CONSTRAINT "reference_values_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "roll_ups" ADD CONSTRAINT "roll_ups_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_operator_id_operators_id_fk" FOREIGN KEY ("operator_id") REFERENCES "public"."operators"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "solution_uses" ADD CONSTRAINT "solution_uses_lot_id_solution_lots_id_fk" FOREIGN KEY ("lot_id") REFERENCES "public"."solution_lots"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "taken_back" ADD CONSTRAINT "taken_back_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "test_answers" ADD CONSTRAINT "test_answers_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "told_alarms" ADD CONSTRAINT "told_alarms_recipient_id_recipients_id_fk" FOREIGN KEY ("recipient_id") REFERENCES "public"."recipients"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "told_alarms" ADD CONSTRAINT "told_alarms_alarm_id_alarms_id_fk" FOREIGN KEY ("alarm_id") REFERENCES "public"."alarms"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD CONSTRAINT "visit_entries_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_trip_id_trips_id_fk" FOREIGN KEY ("trip_id") REFERENCES "public"."trips"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_import_id_imports_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."imports"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "alarm_entries_by_alarm" ON "alarm_entries" USING btree ("alarm_id");--> statement-breakpoint
CREATE INDEX "alarms_by_position" ON "alarms" USING btree ("position_id","raised_at");--> statement-breakpoint
CREATE INDEX "alarms_by_end" ON "alarms" USING btree ("gone_at");--> statement-breakpoint
CREATE INDEX "calibrations_by_installation" ON "calibrations" USING btree ("installation_id","at");--> statement-breakpoint
CREATE INDEX "changes_by_subject" ON "changes" USING btree ("subject","subject_id","id");--> statement-breakpoint
CREATE INDEX "device_numbers_by_installation" ON "device_numbers" USING btree ("installation_id","at");--> statement-breakpoint
CREATE INDEX "drift_by_installation" ON "drift_observations" USING btree ("installation_id","at");--> statement-breakpoint
CREATE UNIQUE INDEX "messages_by_key" ON "messages" USING btree ("recipient_id","key");--> statement-breakpoint
CREATE INDEX "messages_waiting" ON "messages" USING btree ("next_try_at");--> statement-breakpoint
CREATE INDEX "position_codes_by_code" ON "position_codes" USING btree ("code");--> statement-breakpoint
CREATE INDEX "readings_by_time" ON "readings" USING btree ("installation_id","at");--> statement-breakpoint
CREATE INDEX "reference_values_by_installation" ON "reference_values" USING btree ("installation_id","at");--> statement-breakpoint
CREATE UNIQUE INDEX "taken_back_once" ON "taken_back" USING btree ("installation_id","read_at");--> statement-breakpoint
CREATE UNIQUE INDEX "visit_entries_in_order" ON "visit_entries" USING btree ("visit_id","seq");--> statement-breakpoint
CREATE UNIQUE INDEX "visit_entries_once" ON "visit_entries" USING btree ("visit_id","action_id");--> statement-breakpoint
CREATE INDEX "visits_by_installation" ON "visits" USING btree ("installation_id","started_at");--> statement-breakpoint
CREATE INDEX "visits_by_end" ON "visits" USING btree ("closed_at");--> statement-breakpoint
CREATE UNIQUE INDEX "one_open_visit" ON "visits" USING btree ("installation_id") WHERE "visits"."closed_at" is null;
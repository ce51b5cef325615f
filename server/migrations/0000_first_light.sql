CREATE TABLE "calibrations" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"visit_id" uuid,
	"at" timestamp with time zone NOT NULL,
	"zero" double precision NOT NULL,
	"slope_efficiency" double precision NOT NULL,
	"zero_uncertainty" double precision NOT NULL,
	"slope_efficiency_uncertainty" double precision NOT NULL,
	"adopted" boolean NOT NULL
);
--> statement-breakpoint
CREATE TABLE "devices" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"shows" text NOT NULL,
	"writable" boolean NOT NULL,
	"link" jsonb,
	"stand_in" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "drift_observations" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"visit_id" uuid,
	"at" timestamp with time zone NOT NULL,
	"as_found" double precision,
	"as_left" double precision NOT NULL,
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
	"note" text NOT NULL
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
CREATE TABLE "operators" (
	"id" serial PRIMARY KEY NOT NULL,
	"site_id" integer NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "operators_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "places" (
	"id" serial PRIMARY KEY NOT NULL,
	"site_id" integer NOT NULL,
	"name" text NOT NULL,
	"water" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "positions" (
	"id" serial PRIMARY KEY NOT NULL,
	"place_id" integer NOT NULL,
	"code" text NOT NULL,
	"spot" text NOT NULL,
	"quantity" text NOT NULL,
	"process_value" double precision NOT NULL,
	"process_temperature" double precision NOT NULL,
	"tolerance" double precision NOT NULL,
	"reliability" double precision DEFAULT 0.95 NOT NULL,
	"floor_days" integer NOT NULL,
	"ceiling_days" integer NOT NULL,
	"cautions" jsonb NOT NULL,
	CONSTRAINT "positions_code_unique" UNIQUE("code")
);
--> statement-breakpoint
CREATE TABLE "readings" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"ph" double precision NOT NULL,
	"millivolts" double precision,
	"temperature" double precision NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sensors" (
	"id" serial PRIMARY KEY NOT NULL,
	"serial_number" text NOT NULL,
	"kind" text NOT NULL,
	"model" text NOT NULL,
	"isothermal_ph" double precision DEFAULT 7 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sites" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"time_zone" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "solution_lots" (
	"id" serial PRIMARY KEY NOT NULL,
	"standard" text NOT NULL,
	"lot" text NOT NULL,
	"expires_on" timestamp with time zone NOT NULL,
	"opened_on" timestamp with time zone,
	"life_after_opening_days" integer NOT NULL,
	"own_table" jsonb
);
--> statement-breakpoint
CREATE TABLE "visit_entries" (
	"id" serial PRIMARY KEY NOT NULL,
	"visit_id" uuid NOT NULL,
	"seq" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"entry" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "visits" (
	"id" uuid PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"kind" text NOT NULL,
	"first_standard" text NOT NULL,
	"second_standard" text NOT NULL,
	"operator" text NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"closed_at" timestamp with time zone,
	"outcome" text,
	"holder_client" text,
	"holder_name" text,
	"held_since" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "calibrations" ADD CONSTRAINT "calibrations_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calibrations" ADD CONSTRAINT "calibrations_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "drift_observations" ADD CONSTRAINT "drift_observations_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "drift_observations" ADD CONSTRAINT "drift_observations_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "installations" ADD CONSTRAINT "installations_sensor_id_sensors_id_fk" FOREIGN KEY ("sensor_id") REFERENCES "public"."sensors"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "installations" ADD CONSTRAINT "installations_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "installations" ADD CONSTRAINT "installations_device_id_devices_id_fk" FOREIGN KEY ("device_id") REFERENCES "public"."devices"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "operators" ADD CONSTRAINT "operators_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "places" ADD CONSTRAINT "places_site_id_sites_id_fk" FOREIGN KEY ("site_id") REFERENCES "public"."sites"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_place_id_places_id_fk" FOREIGN KEY ("place_id") REFERENCES "public"."places"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "readings" ADD CONSTRAINT "readings_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD CONSTRAINT "visit_entries_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "calibrations_by_installation" ON "calibrations" USING btree ("installation_id","at");--> statement-breakpoint
CREATE INDEX "drift_by_installation" ON "drift_observations" USING btree ("installation_id","at");--> statement-breakpoint
CREATE INDEX "readings_by_time" ON "readings" USING btree ("installation_id","at");--> statement-breakpoint
CREATE UNIQUE INDEX "visit_entries_in_order" ON "visit_entries" USING btree ("visit_id","seq");--> statement-breakpoint
CREATE INDEX "visits_by_installation" ON "visits" USING btree ("installation_id","started_at");
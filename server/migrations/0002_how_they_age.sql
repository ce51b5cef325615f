CREATE TABLE "confirmed_causes" (
	"id" serial PRIMARY KEY NOT NULL,
	"installation_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"cause" text NOT NULL,
	"proposed" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "consumable_renewals" (
	"id" serial PRIMARY KEY NOT NULL,
	"consumable_id" integer NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "consumables" (
	"id" serial PRIMARY KEY NOT NULL,
	"place_id" integer NOT NULL,
	"name" text NOT NULL,
	"every_days" integer NOT NULL,
	"since" timestamp with time zone NOT NULL
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
CREATE TABLE "moved_visits" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"moved_at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"to" timestamp with time zone
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
ALTER TABLE "positions" ADD COLUMN "method" text DEFAULT 'drift' NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "fixed_days" integer;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "in_use_hours" double precision;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "hours_per_day" double precision;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "consequence" integer DEFAULT 2 NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "spare_lead_days" integer DEFAULT 21 NOT NULL;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "calendar_token" text DEFAULT md5(random()::text || clock_timestamp()::text) NOT NULL;--> statement-breakpoint
ALTER TABLE "confirmed_causes" ADD CONSTRAINT "confirmed_causes_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consumable_renewals" ADD CONSTRAINT "consumable_renewals_consumable_id_consumables_id_fk" FOREIGN KEY ("consumable_id") REFERENCES "public"."consumables"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consumables" ADD CONSTRAINT "consumables_place_id_places_id_fk" FOREIGN KEY ("place_id") REFERENCES "public"."places"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "exclusions" ADD CONSTRAINT "exclusions_visit_id_visits_id_fk" FOREIGN KEY ("visit_id") REFERENCES "public"."visits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "moved_visits" ADD CONSTRAINT "moved_visits_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "test_answers" ADD CONSTRAINT "test_answers_installation_id_installations_id_fk" FOREIGN KEY ("installation_id") REFERENCES "public"."installations"("id") ON DELETE no action ON UPDATE no action;
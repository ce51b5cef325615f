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
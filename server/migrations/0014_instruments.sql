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

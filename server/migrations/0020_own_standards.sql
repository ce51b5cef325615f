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

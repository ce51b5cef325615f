CREATE TABLE "own_templates" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"water_kind" text,
	"values" jsonb NOT NULL,
	"archived_at" timestamp with time zone
);

CREATE TABLE "imports" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"what" text NOT NULL,
	"file_name" text NOT NULL,
	"sha256" text NOT NULL,
	"report" jsonb NOT NULL
);

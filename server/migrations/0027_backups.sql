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
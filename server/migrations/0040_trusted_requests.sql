ALTER TABLE "actions" ADD COLUMN "fingerprint" text;--> statement-breakpoint
ALTER TABLE "backups" ADD COLUMN "settings_id" integer;--> statement-breakpoint
ALTER TABLE "visit_entries" ADD COLUMN "fingerprint" text;--> statement-breakpoint
ALTER TABLE "backups" ADD CONSTRAINT "backups_settings_id_backup_settings_id_fk" FOREIGN KEY ("settings_id") REFERENCES "public"."backup_settings"("id") ON DELETE no action ON UPDATE no action;
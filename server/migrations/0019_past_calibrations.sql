ALTER TABLE "imports" ADD COLUMN "done_at" timestamp with time zone;--> statement-breakpoint
UPDATE "imports" SET "done_at" = "at";--> statement-breakpoint
ALTER TABLE "visits" ADD COLUMN "import_id" integer;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_import_id_imports_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."imports"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "visits_by_end" ON "visits" USING btree ("closed_at");
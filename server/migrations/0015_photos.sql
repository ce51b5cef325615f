CREATE TABLE "photos" (
	"sha256" text PRIMARY KEY NOT NULL,
	"type" text NOT NULL,
	"bytes" "bytea" NOT NULL,
	"added_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "events" ADD COLUMN "photo" text;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_photo_photos_sha256_fk" FOREIGN KEY ("photo") REFERENCES "public"."photos"("sha256") ON DELETE no action ON UPDATE no action;
CREATE TABLE "changes" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"operator" text NOT NULL,
	"position_id" integer,
	"field" text NOT NULL,
	"before" jsonb,
	"after" jsonb,
	"valid_from" timestamp with time zone NOT NULL,
	"why" text,
	"undoes" integer
);
--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "changes_by_position" ON "changes" USING btree ("position_id","id");
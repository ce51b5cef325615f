CREATE TABLE "holds" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"visit_id" uuid,
	"held_at" timestamp with time zone NOT NULL,
	"held_by" text NOT NULL,
	"released_at" timestamp with time zone,
	"released_by" text,
	"by_hand" boolean DEFAULT false NOT NULL,
	"problem" text
);
--> statement-breakpoint
ALTER TABLE "holds" ADD CONSTRAINT "holds_position_id_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."positions"("id") ON DELETE no action ON UPDATE no action;
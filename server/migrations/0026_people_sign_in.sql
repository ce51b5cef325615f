CREATE TABLE "credentials" (
	"operator_id" integer PRIMARY KEY NOT NULL,
	"password" text,
	"pin" text
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"token" text PRIMARY KEY NOT NULL,
	"operator_id" integer NOT NULL,
	"by" text NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"last_used_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "operators" ADD COLUMN "role" text DEFAULT 'operator' NOT NULL;--> statement-breakpoint
ALTER TABLE "sites" ADD COLUMN "sign_in" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "credentials" ADD CONSTRAINT "credentials_operator_id_operators_id_fk" FOREIGN KEY ("operator_id") REFERENCES "public"."operators"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_operator_id_operators_id_fk" FOREIGN KEY ("operator_id") REFERENCES "public"."operators"("id") ON DELETE no action ON UPDATE no action;
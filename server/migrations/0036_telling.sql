CREATE TABLE "mail_servers" (
	"id" serial PRIMARY KEY NOT NULL,
	"host" text NOT NULL,
	"port" integer NOT NULL,
	"security" text NOT NULL,
	"user" text NOT NULL,
	"sender" text NOT NULL,
	"set_at" timestamp with time zone NOT NULL,
	"set_by" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "messages" (
	"id" serial PRIMARY KEY NOT NULL,
	"recipient_id" integer NOT NULL,
	"key" text NOT NULL,
	"subject" text NOT NULL,
	"body" text NOT NULL,
	"data" jsonb NOT NULL,
	"made_at" timestamp with time zone NOT NULL,
	"next_try_at" timestamp with time zone,
	"tries" integer DEFAULT 0 NOT NULL,
	"sent_at" timestamp with time zone,
	"problem" text
);
--> statement-breakpoint
CREATE TABLE "recipients" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"by" text NOT NULL,
	"address" text NOT NULL,
	"connection_id" integer,
	"wishes" jsonb NOT NULL,
	"since" timestamp with time zone NOT NULL,
	"archived_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "telling_secrets" (
	"of" text PRIMARY KEY NOT NULL,
	"secret" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "told_alarms" (
	"recipient_id" integer NOT NULL,
	"alarm_id" integer NOT NULL,
	"last_at" timestamp with time zone NOT NULL,
	"gone_told_at" timestamp with time zone,
	CONSTRAINT "told_alarms_recipient_id_alarm_id_pk" PRIMARY KEY("recipient_id","alarm_id")
);
--> statement-breakpoint
ALTER TABLE "messages" ADD CONSTRAINT "messages_recipient_id_recipients_id_fk" FOREIGN KEY ("recipient_id") REFERENCES "public"."recipients"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recipients" ADD CONSTRAINT "recipients_connection_id_connections_id_fk" FOREIGN KEY ("connection_id") REFERENCES "public"."connections"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "told_alarms" ADD CONSTRAINT "told_alarms_recipient_id_recipients_id_fk" FOREIGN KEY ("recipient_id") REFERENCES "public"."recipients"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "told_alarms" ADD CONSTRAINT "told_alarms_alarm_id_alarms_id_fk" FOREIGN KEY ("alarm_id") REFERENCES "public"."alarms"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "messages_by_key" ON "messages" USING btree ("recipient_id","key");--> statement-breakpoint
CREATE INDEX "messages_waiting" ON "messages" USING btree ("next_try_at");
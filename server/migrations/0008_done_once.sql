CREATE TABLE "actions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"answer" jsonb
);

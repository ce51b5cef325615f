ALTER TABLE "readings" ALTER COLUMN "shown" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "readings" ALTER COLUMN "temperature" DROP NOT NULL;
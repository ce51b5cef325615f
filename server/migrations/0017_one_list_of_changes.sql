ALTER TABLE "changes" DROP CONSTRAINT "changes_position_id_positions_id_fk";
--> statement-breakpoint
DROP INDEX "changes_by_position";--> statement-breakpoint
ALTER TABLE "changes" DROP COLUMN "position_id";
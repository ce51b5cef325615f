-- Visits that were begun at the same moment at one sensor: the newest goes on, the others end and say why.
INSERT INTO "visit_entries" ("visit_id", "seq", "at", "operator", "entry")
SELECT v."id", coalesce((SELECT max(e."seq") FROM "visit_entries" e WHERE e."visit_id" = v."id"), 0) + 1, now(), v."operator",
  '{"type": "abandoned", "reason": "Begun twice at once; the other visit goes on."}'
FROM "visits" v
WHERE v."closed_at" IS NULL AND EXISTS (
  SELECT 1 FROM "visits" w
  WHERE w."installation_id" = v."installation_id" AND w."closed_at" IS NULL
    AND (w."started_at", w."id") > (v."started_at", v."id")
);--> statement-breakpoint
UPDATE "visits" v SET "closed_at" = now(), "outcome" = 'abandoned', "holder_client" = NULL, "holder_name" = NULL, "held_since" = NULL
WHERE v."closed_at" IS NULL AND EXISTS (
  SELECT 1 FROM "visits" w
  WHERE w."installation_id" = v."installation_id" AND w."closed_at" IS NULL
    AND (w."started_at", w."id") > (v."started_at", v."id")
);--> statement-breakpoint
CREATE UNIQUE INDEX "one_open_visit" ON "visits" USING btree ("installation_id") WHERE "visits"."closed_at" is null;

UPDATE "alarm_entries" SET "what" = CASE "what" WHEN 'seen' THEN 'acknowledged' WHEN 'quiet' THEN 'shelved' WHEN 'gone' THEN 'returned' ELSE "what" END;

-- Due dates before 1970 were kept as that year's first instant. A due date that is a day ends with its last second.
UPDATE "records" SET "due_at" = CASE
	WHEN "records"."due" ~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}$'
	THEN (("records"."due"::date + 1)::timestamp AT TIME ZONE "workspace"."zone") - interval '1 second'
	ELSE "records"."due"::timestamptz
END
FROM "workspace"
WHERE "records"."due_at" = '1970-01-01T00:00:00Z' AND "records"."due" < '1970';

ALTER TABLE "deliveries" ADD COLUMN "fault" jsonb;--> statement-breakpoint
UPDATE "deliveries" SET "fault" = jsonb_build_object('code', 'refused', 'params', jsonb_build_object('answer', "last_error"))
WHERE "last_error" IS NOT NULL;--> statement-breakpoint
ALTER TABLE "deliveries" DROP COLUMN "last_error";--> statement-breakpoint
ALTER TABLE "draft_edits" ADD COLUMN "id" uuid;--> statement-breakpoint
ALTER TABLE "draft_edits" ADD COLUMN "sentence" jsonb;--> statement-breakpoint
CREATE FUNCTION pg_temp.edit_of_now(e jsonb) RETURNS jsonb LANGUAGE sql AS $$
	SELECT CASE e ->> 'type'
		WHEN 'set-branch-condition' THEN jsonb_build_object('type', 'change-part', 'part', 'handOffs.' || (e ->> 'handOff') || '.branches.' || (e ->> 'branch'), 'set', jsonb_build_object('when', e -> 'when'))
		WHEN 'rename-branch' THEN jsonb_build_object('type', 'change-part', 'part', 'handOffs.' || (e ->> 'handOff') || '.branches.' || (e ->> 'branch'), 'set', jsonb_build_object('name', e -> 'name'))
		WHEN 'set-branch-destination' THEN jsonb_build_object('type', 'change-part', 'part', 'handOffs.' || (e ->> 'handOff') || '.branches.' || (e ->> 'branch'), 'set', jsonb_build_object('to', e -> 'to'))
		WHEN 'set-adjustment-condition' THEN jsonb_build_object('type', 'change-part', 'part', 'adjustments.' || (e ->> 'adjustment'), 'set', jsonb_build_object('when', e -> 'when'))
		WHEN 'replace-definition' THEN jsonb_build_object('type', 'read-in', 'differences', '[]'::jsonb)
		ELSE e
	END
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.sentence_of(e jsonb) RETURNS jsonb LANGUAGE sql AS $$
	SELECT CASE e ->> 'type'
		WHEN 'set-treatments' THEN jsonb_build_object('code', 'set-treatments-many', 'params', jsonb_build_object(
			'count', jsonb_array_length(e -> 'cells'),
			'fields', (SELECT jsonb_agg(DISTINCT c ->> 'field') FROM jsonb_array_elements(e -> 'cells') c),
			'stages', (SELECT jsonb_agg(DISTINCT c ->> 'stage') FROM jsonb_array_elements(e -> 'cells') c)))
		WHEN 'set-submitter-sees' THEN jsonb_build_object('code', 'set-submitter-sees-many', 'params', jsonb_build_object(
			'fields', (SELECT jsonb_agg(DISTINCT c ->> 'field') FROM jsonb_array_elements(e -> 'cells') c)))
		WHEN 'change-part' THEN jsonb_build_object('code', 'change-part', 'params', jsonb_build_object(
			'part', jsonb_build_object('term', CASE WHEN e ->> 'part' LIKE 'handOffs.%' THEN 'part/branch' ELSE 'part/adjustment' END),
			'name', substring(e ->> 'part' from '[^.]*$'),
			'place', jsonb_build_object('term', 'place/none'),
			'properties', (SELECT jsonb_agg(k) FROM jsonb_object_keys(e -> 'set') k)))
		ELSE jsonb_build_object('code', 'read-in', 'params', jsonb_build_object('count', 1))
	END
$$;--> statement-breakpoint
UPDATE "draft_edits" SET "edit" = pg_temp.edit_of_now("edit"), "inverse" = pg_temp.edit_of_now("inverse");--> statement-breakpoint
UPDATE "draft_edits" SET "sentence" = pg_temp.sentence_of("edit");--> statement-breakpoint
ALTER TABLE "draft_edits" ALTER COLUMN "sentence" SET NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "draft_edits_id" ON "draft_edits" USING btree ("workflow","id");

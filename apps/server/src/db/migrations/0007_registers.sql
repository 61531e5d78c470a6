CREATE TABLE "register_views" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"workflow" text NOT NULL,
	"owner" uuid NOT NULL,
	"name" text NOT NULL,
	"is_shared" boolean DEFAULT false NOT NULL,
	"settings" jsonb NOT NULL,
	"changed_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "register_views" ADD CONSTRAINT "register_views_workflow_workflows_key_fk" FOREIGN KEY ("workflow") REFERENCES "public"."workflows"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "register_views" ADD CONSTRAINT "register_views_owner_members_id_fk" FOREIGN KEY ("owner") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "register_views_workflow" ON "register_views" USING btree ("workflow","name");--> statement-breakpoint
CREATE INDEX "register_views_owner" ON "register_views" USING btree ("owner");--> statement-breakpoint
CREATE INDEX "records_register" ON "records" USING btree ("workflow","created_at","id");--> statement-breakpoint
CREATE INDEX "records_register_due" ON "records" USING btree ("workflow","due_at","id") WHERE due_at is not null;--> statement-breakpoint
CREATE INDEX "records_register_arrival" ON "records" USING btree ("workflow","arrived_at","id");--> statement-breakpoint
CREATE INDEX "records_stage" ON "records" USING btree ("workflow","stage","created_at","id");--> statement-breakpoint
CREATE FUNCTION "ypomet_number"(text) RETURNS numeric LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT CASE WHEN $1 ~ '^-?[0-9]+(\.[0-9]+)?$' THEN $1::numeric END
$$;--> statement-breakpoint
CREATE FUNCTION "ypomet_date"(text) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT CASE WHEN $1 ~ '^[0-9]{4}-(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$' AND right($1, 2)::int <= CASE
    WHEN substr($1, 6, 2) IN ('04', '06', '09', '11') THEN 30
    WHEN substr($1, 6, 2) <> '02' THEN 31
    WHEN left($1, 4)::int % 4 = 0 AND (left($1, 4)::int % 100 <> 0 OR left($1, 4)::int % 400 = 0) THEN 29
    ELSE 28
  END THEN $1 END
$$;--> statement-breakpoint
CREATE FUNCTION "ypomet_time"(text) RETURNS bigint LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT CASE WHEN $1 ~ '^([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9](\.[0-9]{1,9})?)?(Z|[+-][0-9]{2}:[0-9]{2})?$' THEN
    left($1, 2)::bigint * 3600000 + substr($1, 4, 2)::bigint * 60000
    + coalesce(substring($1 from '^.{5}:([0-9]{2})')::bigint, 0) * 1000
    + coalesce(rpad(left(substring($1 from '\.([0-9]+)'), 3), 3, '0')::bigint, 0)
    - coalesce((substring($1 from '([+-][0-9]{2}):[0-9]{2}$') || '1')::bigint / abs((substring($1 from '([+-][0-9]{2}):[0-9]{2}$') || '1')::bigint)
      * (substring($1 from '[+-]([0-9]{2}):[0-9]{2}$')::bigint * 3600000 + substring($1 from '[+-][0-9]{2}:([0-9]{2})$')::bigint * 60000), 0)
  END
$$;--> statement-breakpoint
CREATE FUNCTION "ypomet_instant"(text) RETURNS timestamptz LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
  SELECT CASE WHEN $1 ~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}T([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9](\.[0-9]{1,3})?Z$'
    AND left($1, 4) <> '0000' AND ypomet_date(left($1, 10)) IS NOT NULL THEN $1::timestamptz END
$$;

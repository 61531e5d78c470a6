CREATE TABLE "files" (
	"sha256" text NOT NULL,
	"member" uuid NOT NULL,
	"name" text NOT NULL,
	"media_type" text NOT NULL,
	"bytes" bigint NOT NULL,
	"at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "files_member_sha256_name_pk" PRIMARY KEY("member","sha256","name")
);
--> statement-breakpoint
CREATE TABLE "limits" (
	"key" varchar(255) PRIMARY KEY NOT NULL,
	"points" integer DEFAULT 0 NOT NULL,
	"expire" bigint
);
--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "intake" text;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "refers_to" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "accepted" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "is_seeded" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_member_members_id_fk" FOREIGN KEY ("member") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "files_quota" ON "files" USING btree ("member","at");--> statement-breakpoint
CREATE INDEX "limits_expiry" ON "limits" USING btree ("expire");--> statement-breakpoint
UPDATE "records" r SET "intake" = (
	SELECT e."event" ->> 'from' FROM "record_events" e WHERE e."record" = r."id" ORDER BY e."id" LIMIT 1
);--> statement-breakpoint
UPDATE "versions" SET "refers_to" = coalesce((
	SELECT jsonb_object_agg(w."key", w."published_version") FROM "workflows" w WHERE w."published_version" IS NOT NULL
), '{}'::jsonb);--> statement-breakpoint
UPDATE "workspace" SET "is_seeded" = EXISTS (SELECT 1 FROM "records");

CREATE TABLE "answered_requests" (
	"member" uuid NOT NULL,
	"key" text NOT NULL,
	"fingerprint" text NOT NULL,
	"answer" jsonb NOT NULL,
	"at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "answered_requests_member_key_pk" PRIMARY KEY("member","key")
);
--> statement-breakpoint
CREATE TABLE "deliveries" (
	"id" uuid PRIMARY KEY NOT NULL,
	"record" uuid NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"recipients" text[] NOT NULL,
	"subject" text NOT NULL,
	"body" text NOT NULL,
	"status" text DEFAULT 'queued' NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"last_error" text,
	"created_at" timestamp(3) with time zone NOT NULL,
	"sent_at" timestamp(3) with time zone
);
--> statement-breakpoint
CREATE TABLE "draft_edits" (
	"workflow" text NOT NULL,
	"revision" integer NOT NULL,
	"position" integer NOT NULL,
	"edit" jsonb NOT NULL,
	"inverse" jsonb NOT NULL,
	"by" uuid,
	"at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "draft_edits_workflow_revision_position_pk" PRIMARY KEY("workflow","revision","position")
);
--> statement-breakpoint
CREATE TABLE "members" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"password_hash" text NOT NULL,
	"roles" text[] DEFAULT '{}' NOT NULL,
	"created_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "record_events" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"record" uuid NOT NULL,
	"revision" integer NOT NULL,
	"event" jsonb NOT NULL,
	"by" uuid,
	"at" timestamp(3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "records" (
	"id" uuid PRIMARY KEY NOT NULL,
	"workflow" text NOT NULL,
	"version" integer NOT NULL,
	"number" text NOT NULL,
	"stage" text NOT NULL,
	"stage_kind" text NOT NULL,
	"track" text,
	"waiting_roles" text[] DEFAULT '{}' NOT NULL,
	"waiting_member" uuid,
	"assignee" jsonb,
	"submitted_by" uuid,
	"values" jsonb NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"created_at" timestamp(3) with time zone NOT NULL,
	"arrived_at" timestamp(3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"id" text PRIMARY KEY NOT NULL,
	"data" jsonb NOT NULL,
	"expires_at" timestamp(3) with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"workflow" text NOT NULL,
	"number" integer NOT NULL,
	"definition" json NOT NULL,
	"published_by" uuid,
	"published_at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "versions_workflow_number_pk" PRIMARY KEY("workflow","number")
);
--> statement-breakpoint
CREATE TABLE "workflows" (
	"key" text PRIMARY KEY NOT NULL,
	"definition" json NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"changed_at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	"published_version" integer,
	"published_revision" integer,
	"next_number" integer DEFAULT 1 NOT NULL,
	"created_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "workspace" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"name" text NOT NULL,
	"zone" text NOT NULL,
	"locale" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "answered_requests" ADD CONSTRAINT "answered_requests_member_members_id_fk" FOREIGN KEY ("member") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_record_records_id_fk" FOREIGN KEY ("record") REFERENCES "public"."records"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "draft_edits" ADD CONSTRAINT "draft_edits_workflow_workflows_key_fk" FOREIGN KEY ("workflow") REFERENCES "public"."workflows"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "draft_edits" ADD CONSTRAINT "draft_edits_by_members_id_fk" FOREIGN KEY ("by") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_events" ADD CONSTRAINT "record_events_record_records_id_fk" FOREIGN KEY ("record") REFERENCES "public"."records"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_events" ADD CONSTRAINT "record_events_by_members_id_fk" FOREIGN KEY ("by") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "records" ADD CONSTRAINT "records_workflow_workflows_key_fk" FOREIGN KEY ("workflow") REFERENCES "public"."workflows"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "records" ADD CONSTRAINT "records_submitted_by_members_id_fk" FOREIGN KEY ("submitted_by") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_workflow_workflows_key_fk" FOREIGN KEY ("workflow") REFERENCES "public"."workflows"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_published_by_members_id_fk" FOREIGN KEY ("published_by") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "answered_requests_age" ON "answered_requests" USING btree ("at");--> statement-breakpoint
CREATE INDEX "deliveries_newest" ON "deliveries" USING btree ("created_at","id");--> statement-breakpoint
CREATE INDEX "deliveries_record" ON "deliveries" USING btree ("record");--> statement-breakpoint
CREATE UNIQUE INDEX "members_email" ON "members" USING btree (lower("email"));--> statement-breakpoint
CREATE INDEX "record_events_record" ON "record_events" USING btree ("record","id");--> statement-breakpoint
CREATE UNIQUE INDEX "records_number" ON "records" USING btree ("workflow","number");--> statement-breakpoint
CREATE INDEX "records_arrival" ON "records" USING btree ("arrived_at","id") WHERE stage_kind <> 'end';--> statement-breakpoint
CREATE INDEX "records_waiting_roles" ON "records" USING gin ("waiting_roles") WHERE stage_kind <> 'end';--> statement-breakpoint
CREATE INDEX "records_waiting_member" ON "records" USING btree ("waiting_member","arrived_at");--> statement-breakpoint
CREATE INDEX "records_submitter" ON "records" USING btree ("submitted_by","created_at");--> statement-breakpoint
CREATE INDEX "records_version" ON "records" USING btree ("workflow","version") WHERE stage_kind <> 'end';--> statement-breakpoint
CREATE INDEX "sessions_expiry" ON "sessions" USING btree ("expires_at");
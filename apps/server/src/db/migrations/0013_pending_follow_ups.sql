CREATE TABLE "pending_follow_ups" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"source" uuid NOT NULL,
	"consequence" jsonb NOT NULL,
	"depth" integer NOT NULL,
	"actor" jsonb NOT NULL,
	"created_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "pending_follow_ups" ADD CONSTRAINT "pending_follow_ups_source_records_id_fk" FOREIGN KEY ("source") REFERENCES "public"."records"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "pending_follow_ups_source" ON "pending_follow_ups" USING btree ("source","id");
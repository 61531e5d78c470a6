ALTER TABLE "records" ADD COLUMN "due" text;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "due_at" timestamp(3) with time zone;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "reminded" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "refused" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "refused_at" timestamp(3) with time zone;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "clock_at" timestamp(3) with time zone;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "calendar" jsonb;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "next_pages" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
CREATE INDEX "records_due" ON "records" USING btree (coalesce(due_at, '9999-12-31T00:00:00Z'),"id") WHERE stage_kind <> 'end';--> statement-breakpoint
CREATE INDEX "records_clock" ON "records" USING btree ("clock_at") WHERE clock_at is not null;--> statement-breakpoint
CREATE INDEX "records_refused" ON "records" USING btree ("id") WHERE cardinality(refused) > 0;
ALTER TABLE "deliveries" ADD COLUMN "digest" uuid;--> statement-breakpoint
ALTER TABLE "pending_follow_ups" ADD COLUMN "mails" jsonb;--> statement-breakpoint
CREATE INDEX "deliveries_digest" ON "deliveries" USING btree ("digest","sequence") WHERE status = 'queued' and digest is not null;
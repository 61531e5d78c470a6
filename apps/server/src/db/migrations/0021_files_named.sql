ALTER TABLE "files" ADD COLUMN "named_at" timestamp(3) with time zone;--> statement-breakpoint
CREATE INDEX "files_unnamed" ON "files" USING btree ("at") WHERE named_at is null;--> statement-breakpoint
-- Of files that were handed over before, nobody knows whether a record names them: they are kept.
UPDATE "files" SET "named_at" = "at";

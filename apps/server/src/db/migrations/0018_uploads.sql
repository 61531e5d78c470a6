CREATE TABLE "uploads" (
	"id" text PRIMARY KEY NOT NULL,
	"member" uuid NOT NULL,
	"link" uuid,
	"address" text NOT NULL,
	"bytes" bigint NOT NULL,
	"begun_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE INDEX "uploads_begun" ON "uploads" USING btree ("begun_at");
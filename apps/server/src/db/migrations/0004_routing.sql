CREATE TABLE "delivery_attempts" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"delivery" uuid NOT NULL,
	"at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	"duration_ms" integer NOT NULL,
	"is_sent" boolean NOT NULL,
	"fault" jsonb,
	"answer" text DEFAULT '' NOT NULL,
	"issues" jsonb
);
--> statement-breakpoint
CREATE TABLE "outlets" (
	"key" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"settings" jsonb NOT NULL,
	"secret" text,
	"created_at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "deliveries" ALTER COLUMN "body" SET DEFAULT '';--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "delivery" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "outlet" text DEFAULT 'mail' NOT NULL;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "content" jsonb;--> statement-breakpoint
ALTER TABLE "deliveries" ADD COLUMN "next_at" timestamp(3) with time zone;--> statement-breakpoint
ALTER TABLE "record_events" ADD COLUMN "told" jsonb;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "opened_by" uuid;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "follow_up" text;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "opened_row" text;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "depth" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "records" ADD COLUMN "issues" jsonb;--> statement-breakpoint
ALTER TABLE "delivery_attempts" ADD CONSTRAINT "delivery_attempts_delivery_deliveries_id_fk" FOREIGN KEY ("delivery") REFERENCES "public"."deliveries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "delivery_attempts_delivery" ON "delivery_attempts" USING btree ("delivery","id");--> statement-breakpoint
CREATE INDEX "deliveries_unsent" ON "deliveries" USING btree ("status","outlet","created_at") WHERE status <> 'sent';--> statement-breakpoint
CREATE INDEX "deliveries_outlet" ON "deliveries" USING btree ("outlet","created_at","id");--> statement-breakpoint
CREATE INDEX "records_opened_by" ON "records" USING btree ("opened_by","created_at") WHERE opened_by is not null;
CREATE TABLE "reversible_hand_offs" (
	"record" uuid PRIMARY KEY NOT NULL,
	"revision" integer NOT NULL,
	"member" uuid NOT NULL,
	"hand_off" text NOT NULL,
	"before" jsonb NOT NULL,
	"at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "reversible_hand_offs" ADD CONSTRAINT "reversible_hand_offs_record_records_id_fk" FOREIGN KEY ("record") REFERENCES "public"."records"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "deliveries_in_order" ON "deliveries" USING btree ("outlet","sequence") WHERE status = 'queued';
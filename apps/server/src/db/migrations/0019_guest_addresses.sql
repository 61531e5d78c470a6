CREATE TABLE "guest_addresses" (
	"address" text PRIMARY KEY NOT NULL,
	"link" uuid NOT NULL,
	"asked" integer DEFAULT 0 NOT NULL,
	"asked_at" timestamp(3) with time zone,
	"confirmed_at" timestamp(3) with time zone
);
--> statement-breakpoint
ALTER TABLE "guest_addresses" ADD CONSTRAINT "guest_addresses_link_public_links_id_fk" FOREIGN KEY ("link") REFERENCES "public"."public_links"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "guest_addresses_asked" ON "guest_addresses" USING btree ("link","asked_at");
CREATE TABLE "guests" (
	"member" uuid PRIMARY KEY NOT NULL,
	"link" uuid NOT NULL,
	"issued_at" timestamp(3) with time zone NOT NULL,
	"record" uuid,
	"begun_at" timestamp(3) with time zone
);
--> statement-breakpoint
CREATE TABLE "public_links" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"workflow" text NOT NULL,
	"stage" text NOT NULL,
	"address" text NOT NULL,
	"settings" jsonb NOT NULL,
	"begun" integer DEFAULT 0 NOT NULL,
	"changed_at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "public_links_address_unique" UNIQUE("address")
);
--> statement-breakpoint
DROP INDEX "members_email";--> statement-breakpoint
ALTER TABLE "members" ADD COLUMN "is_guest" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "guests" ADD CONSTRAINT "guests_member_members_id_fk" FOREIGN KEY ("member") REFERENCES "public"."members"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "guests" ADD CONSTRAINT "guests_link_public_links_id_fk" FOREIGN KEY ("link") REFERENCES "public"."public_links"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "public_links" ADD CONSTRAINT "public_links_workflow_workflows_key_fk" FOREIGN KEY ("workflow") REFERENCES "public"."workflows"("key") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "guests_begun" ON "guests" USING btree ("link","begun_at") WHERE begun_at is not null;--> statement-breakpoint
CREATE INDEX "guests_idle" ON "guests" USING btree ("issued_at") WHERE record is null;--> statement-breakpoint
CREATE UNIQUE INDEX "public_links_intake" ON "public_links" USING btree ("workflow","stage");--> statement-breakpoint
CREATE UNIQUE INDEX "members_email" ON "members" USING btree (lower("email")) WHERE not is_guest;
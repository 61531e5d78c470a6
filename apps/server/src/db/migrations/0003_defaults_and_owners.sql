ALTER TABLE "records" ADD COLUMN "defaulted" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "notes" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "workflows" ADD COLUMN "owner" uuid;--> statement-breakpoint
ALTER TABLE "workflows" ADD COLUMN "archived_at" timestamp(3) with time zone;--> statement-breakpoint
ALTER TABLE "workflows" ADD CONSTRAINT "workflows_owner_members_id_fk" FOREIGN KEY ("owner") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;
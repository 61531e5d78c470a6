CREATE TABLE "desk_views" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"owner" uuid NOT NULL,
	"name" text NOT NULL,
	"is_shared" boolean DEFAULT false NOT NULL,
	"settings" jsonb NOT NULL,
	"changed_at" timestamp(3) with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "desk_views" ADD CONSTRAINT "desk_views_owner_members_id_fk" FOREIGN KEY ("owner") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "desk_views_owner" ON "desk_views" USING btree ("owner");
CREATE TABLE "unfinished_forms" (
	"member" uuid NOT NULL,
	"place" text NOT NULL,
	"title" text NOT NULL,
	"content" jsonb NOT NULL,
	"bytes" integer NOT NULL,
	"revision" integer NOT NULL,
	"changed_at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "unfinished_forms_member_place_pk" PRIMARY KEY("member","place")
);
--> statement-breakpoint
ALTER TABLE "unfinished_forms" ADD CONSTRAINT "unfinished_forms_member_members_id_fk" FOREIGN KEY ("member") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "unfinished_forms_age" ON "unfinished_forms" USING btree ("changed_at");
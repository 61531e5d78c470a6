CREATE TABLE "record_readings" (
	"record" uuid NOT NULL,
	"member" uuid NOT NULL,
	"revision" integer NOT NULL,
	"is_acting" boolean NOT NULL,
	"at" timestamp(3) with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "record_readings_record_member_pk" PRIMARY KEY("record","member")
);
--> statement-breakpoint
ALTER TABLE "record_readings" ADD CONSTRAINT "record_readings_record_records_id_fk" FOREIGN KEY ("record") REFERENCES "public"."records"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_readings" ADD CONSTRAINT "record_readings_member_members_id_fk" FOREIGN KEY ("member") REFERENCES "public"."members"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "record_readings_age" ON "record_readings" USING btree ("at");
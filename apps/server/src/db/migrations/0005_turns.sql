CREATE TABLE "assignments" (
	"workflow" text NOT NULL,
	"stage" text NOT NULL,
	"member" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "assignments_workflow_stage_member_pk" PRIMARY KEY("workflow","stage","member")
);

CREATE TABLE "project_states" (
	"project_id" text NOT NULL,
	"minute" integer NOT NULL,
	"revision" integer NOT NULL,
	"scene" json NOT NULL,
	"saved_at" timestamp with time zone NOT NULL,
	CONSTRAINT "project_states_project_id_minute_pk" PRIMARY KEY("project_id","minute")
);
--> statement-breakpoint
ALTER TABLE "project_states" ADD CONSTRAINT "project_states_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE cascade ON UPDATE no action;
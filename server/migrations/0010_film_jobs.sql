CREATE TABLE "film_pieces" (
	"film_id" text NOT NULL,
	"name" text NOT NULL,
	"blob_id" text NOT NULL,
	"byte_length" bigint NOT NULL,
	"made_by" text NOT NULL,
	CONSTRAINT "film_pieces_film_id_name_pk" PRIMARY KEY("film_id","name")
);
--> statement-breakpoint
CREATE TABLE "film_shares" (
	"job_id" text PRIMARY KEY NOT NULL,
	"film_id" text NOT NULL,
	"worker" text NOT NULL,
	"alive_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "films" (
	"id" text PRIMARY KEY NOT NULL,
	"project_id" text NOT NULL,
	"scene" json NOT NULL,
	"film_order" json NOT NULL,
	"state" text NOT NULL,
	"failure" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "film_pieces" ADD CONSTRAINT "film_pieces_film_id_films_id_fk" FOREIGN KEY ("film_id") REFERENCES "public"."films"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "film_pieces" ADD CONSTRAINT "film_pieces_blob_id_blobs_id_fk" FOREIGN KEY ("blob_id") REFERENCES "public"."blobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "film_shares" ADD CONSTRAINT "film_shares_film_id_films_id_fk" FOREIGN KEY ("film_id") REFERENCES "public"."films"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "films" ADD CONSTRAINT "films_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE cascade ON UPDATE no action;
CREATE TABLE "blob_chunks" (
	"blob_id" text NOT NULL,
	"index" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "blob_chunks_blob_id_index_pk" PRIMARY KEY("blob_id","index")
);
--> statement-breakpoint
CREATE TABLE "blobs" (
	"id" text PRIMARY KEY NOT NULL,
	"sha256" text,
	"byte_length" bigint NOT NULL,
	"complete" boolean NOT NULL,
	CONSTRAINT "blobs_sha256_unique" UNIQUE("sha256")
);
--> statement-breakpoint
CREATE TABLE "examples" (
	"id" text PRIMARY KEY NOT NULL,
	"scene" json NOT NULL
);
--> statement-breakpoint
CREATE TABLE "projects" (
	"id" text PRIMARY KEY NOT NULL,
	"revision" integer NOT NULL,
	"scene" json NOT NULL,
	"picture" "bytea",
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"deleted_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "sounds" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"facts" json NOT NULL,
	"blob_id" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "blob_chunks" ADD CONSTRAINT "blob_chunks_blob_id_blobs_id_fk" FOREIGN KEY ("blob_id") REFERENCES "public"."blobs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sounds" ADD CONSTRAINT "sounds_blob_id_blobs_id_fk" FOREIGN KEY ("blob_id") REFERENCES "public"."blobs"("id") ON DELETE no action ON UPDATE no action;
CREATE TABLE "analyses" (
	"key" text PRIMARY KEY NOT NULL,
	"bytes" "bytea" NOT NULL,
	"byte_length" integer NOT NULL,
	"used_at" timestamp with time zone DEFAULT now() NOT NULL
);

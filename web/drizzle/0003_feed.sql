CREATE TABLE "feed" (
	"id" smallint PRIMARY KEY NOT NULL,
	"status" text NOT NULL,
	"speed" double precision NOT NULL,
	"moment" timestamp with time zone NOT NULL,
	"stated" timestamp with time zone NOT NULL,
	"stored_to" timestamp with time zone NOT NULL,
	"import_id" integer NOT NULL
);

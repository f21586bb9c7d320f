CREATE TABLE "screens" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"columns" jsonb NOT NULL,
	"filters" jsonb NOT NULL,
	"changed" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "screens_name_unique" UNIQUE("name")
);

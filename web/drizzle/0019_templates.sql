CREATE TABLE "finder_templates" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"asked" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"changed" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "finder_templates_name_unique" UNIQUE("name")
);

ALTER TABLE "structures" ADD COLUMN "held" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "structures" ADD COLUMN "name" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "structures" ADD COLUMN "tags" text[] DEFAULT '{}' NOT NULL;
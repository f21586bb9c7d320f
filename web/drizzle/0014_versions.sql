CREATE TABLE "requests" (
	"what" text NOT NULL,
	"key" text NOT NULL,
	"digest" text NOT NULL,
	"status" smallint,
	"headers" jsonb,
	"body" text,
	"begun" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "requests_what_key_pk" PRIMARY KEY("what","key")
);
--> statement-breakpoint
ALTER TABLE "borrowings" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "screens" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "structures" ADD COLUMN "version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
DO $$
DECLARE watched text;
BEGIN
	FOREACH watched IN ARRAY ARRAY['snapshots', 'prints', 'intraday_bars', 'verdicts', 'borrowings'] LOOP
		EXECUTE format('CREATE TRIGGER changed_by_insert AFTER INSERT ON %I REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes()', watched);
		EXECUTE format('CREATE TRIGGER changed_by_update AFTER UPDATE ON %I REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes()', watched);
		EXECUTE format('CREATE TRIGGER changed_by_delete AFTER DELETE ON %I REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes()', watched);
	END LOOP;
END $$;

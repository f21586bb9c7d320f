CREATE TABLE "changes" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"what" text NOT NULL,
	"symbol" text NOT NULL,
	"transaction" "xid8" DEFAULT pg_current_xact_id() NOT NULL,
	"changed" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "butterfly_25" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "risk_reversal_10" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "butterfly_10" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "put_volume" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "put_open_interest" double precision;--> statement-breakpoint
ALTER TABLE "screens" ADD COLUMN "kinds" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "screens" ADD COLUMN "families" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "screens" ADD COLUMN "sort" text DEFAULT '' NOT NULL;--> statement-breakpoint
CREATE INDEX "changes_transaction" ON "changes" USING btree ("transaction");--> statement-breakpoint
UPDATE "screens" SET "columns" = "columns" || '["*"]'::jsonb;--> statement-breakpoint
CREATE FUNCTION note_changes() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	INSERT INTO changes (what, symbol) SELECT DISTINCT TG_TABLE_NAME, touched.symbol FROM touched;
	RETURN NULL;
END $$;--> statement-breakpoint
DO $$
DECLARE watched text;
BEGIN
	FOREACH watched IN ARRAY ARRAY['measures', 'bars', 'dividends', 'events', 'underlyings'] LOOP
		EXECUTE format('CREATE TRIGGER changed_by_insert AFTER INSERT ON %I REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes()', watched);
		EXECUTE format('CREATE TRIGGER changed_by_update AFTER UPDATE ON %I REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes()', watched);
		EXECUTE format('CREATE TRIGGER changed_by_delete AFTER DELETE ON %I REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes()', watched);
	END LOOP;
END $$;

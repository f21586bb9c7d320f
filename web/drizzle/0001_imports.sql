CREATE TABLE "column_matches" (
	"header" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"columns" jsonb NOT NULL,
	"conventions" jsonb NOT NULL,
	"used" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "intraday_bars" (
	"symbol" text NOT NULL,
	"time" timestamp with time zone NOT NULL,
	"open" double precision NOT NULL,
	"high" double precision NOT NULL,
	"low" double precision NOT NULL,
	"close" double precision NOT NULL,
	"volume" double precision,
	CONSTRAINT "intraday_bars_symbol_time_pk" PRIMARY KEY("symbol","time")
);
--> statement-breakpoint
CREATE TABLE "journal" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"import_id" integer NOT NULL,
	"table_name" text NOT NULL,
	"key" jsonb NOT NULL,
	"before" jsonb
);
--> statement-breakpoint
CREATE TABLE "positions" (
	"symbol" text NOT NULL,
	"expiry" text NOT NULL,
	"strike" numeric NOT NULL,
	"side" text NOT NULL,
	"quantity" numeric NOT NULL,
	"price" numeric NOT NULL,
	"opened" timestamp with time zone NOT NULL,
	"tag" text NOT NULL,
	"occurrence" integer NOT NULL,
	CONSTRAINT "positions_symbol_expiry_strike_side_quantity_price_opened_tag_occurrence_pk" PRIMARY KEY("symbol","expiry","strike","side","quantity","price","opened","tag","occurrence")
);
--> statement-breakpoint
CREATE TABLE "prints" (
	"symbol" text NOT NULL,
	"time" timestamp with time zone NOT NULL,
	"expiry" date NOT NULL,
	"strike" double precision NOT NULL,
	"side" text NOT NULL,
	"price" double precision NOT NULL,
	"size" double precision NOT NULL,
	"group" text NOT NULL,
	"import_id" integer,
	"id" bigint NOT NULL,
	CONSTRAINT "prints_symbol_time_id_pk" PRIMARY KEY("symbol","time","id")
);
--> statement-breakpoint
CREATE TABLE "tasks" (
	"id" serial PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"status" text NOT NULL,
	"input" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"done" double precision DEFAULT 0 NOT NULL,
	"total" double precision DEFAULT 0 NOT NULL,
	"detail" text,
	"is_cancelled" boolean DEFAULT false NOT NULL,
	"started" timestamp with time zone DEFAULT now() NOT NULL,
	"finished" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "uploads" (
	"import_id" integer NOT NULL,
	"part" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "uploads_import_id_part_pk" PRIMARY KEY("import_id","part")
);
--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "bytes" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "format" text;--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "columns" jsonb;--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "conventions" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "accept_bad_rows" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "is_cancelled" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "bytes_read" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "intraday_bars" ADD CONSTRAINT "intraday_bars_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "journal" ADD CONSTRAINT "journal_import_id_imports_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."imports"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "prints" ADD CONSTRAINT "prints_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "uploads" ADD CONSTRAINT "uploads_import_id_imports_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."imports"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "journal_import" ON "journal" USING btree ("import_id");--> statement-breakpoint
CREATE INDEX "journal_key" ON "journal" USING btree ("table_name",md5("key"::text));
--> statement-breakpoint
-- Uploads are read once and thrown away; the time to compress them would be lost.
ALTER TABLE "uploads" ALTER COLUMN "bytes" SET STORAGE EXTERNAL;--> statement-breakpoint
UPDATE "imports" SET "status" = 'failed' WHERE "status" IN ('running', 'interrupted');--> statement-breakpoint
-- Nobody searches by arrays, so they need no statistics.
-- lz4 writes the arrays several times quicker than the default; a server built without it keeps the default.
DO $$
DECLARE part record;
BEGIN
	FOR part IN SELECT c.oid::regclass AS name, a.attname AS field FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid
		WHERE c.relname LIKE 'slices%' AND c.relkind IN ('r', 'p') AND a.attnum > 0 AND a.atttypid = 'double precision[]'::regtype
	LOOP
		EXECUTE format('ALTER TABLE %s ALTER COLUMN %I SET STATISTICS 0', part.name, part.field);
		EXECUTE format('ALTER TABLE %s ALTER COLUMN %I SET COMPRESSION lz4', part.name, part.field);
	END LOOP;
EXCEPTION WHEN OTHERS THEN NULL;
END $$;

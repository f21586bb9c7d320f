CREATE TABLE "book_cash" (
	"id" serial PRIMARY KEY NOT NULL,
	"book_id" integer NOT NULL,
	"time" timestamp with time zone NOT NULL,
	"amount" numeric NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "book_changes" (
	"id" serial PRIMARY KEY NOT NULL,
	"book_id" integer NOT NULL,
	"made" timestamp with time zone DEFAULT now() NOT NULL,
	"words" text NOT NULL,
	"rows" jsonb NOT NULL,
	"is_undone" boolean DEFAULT false NOT NULL,
	"import_id" integer
);
--> statement-breakpoint
CREATE TABLE "book_positions" (
	"id" serial PRIMARY KEY NOT NULL,
	"book_id" integer NOT NULL,
	"symbol" text NOT NULL,
	"name" text NOT NULL,
	"tags" text[] DEFAULT '{}' NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"import_id" integer,
	"version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "book_positions_name" UNIQUE("book_id","name")
);
--> statement-breakpoint
CREATE TABLE "books" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"currency" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"limits" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"import_id" integer,
	"version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "books_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "fills" (
	"id" serial PRIMARY KEY NOT NULL,
	"position_id" integer NOT NULL,
	"time" timestamp with time zone NOT NULL,
	"symbol" text NOT NULL,
	"expiry" text DEFAULT '' NOT NULL,
	"settlement" text DEFAULT '' NOT NULL,
	"strike" numeric DEFAULT '0' NOT NULL,
	"side" text DEFAULT '' NOT NULL,
	"quantity" numeric NOT NULL,
	"price" numeric NOT NULL,
	"fee" numeric DEFAULT '0' NOT NULL,
	"is_assigned" boolean DEFAULT false NOT NULL,
	"tag" text DEFAULT '' NOT NULL,
	"import_id" integer,
	"version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "settlements" (
	"symbol" text NOT NULL,
	"expiry" date NOT NULL,
	"settlement" text NOT NULL,
	"price" numeric NOT NULL,
	CONSTRAINT "settlements_symbol_expiry_settlement_pk" PRIMARY KEY("symbol","expiry","settlement")
);
--> statement-breakpoint
ALTER TABLE "book_cash" ADD CONSTRAINT "book_cash_book_id_books_id_fk" FOREIGN KEY ("book_id") REFERENCES "public"."books"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "book_positions" ADD CONSTRAINT "book_positions_book_id_books_id_fk" FOREIGN KEY ("book_id") REFERENCES "public"."books"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "fills" ADD CONSTRAINT "fills_position_id_book_positions_id_fk" FOREIGN KEY ("position_id") REFERENCES "public"."book_positions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "book_cash_book" ON "book_cash" USING btree ("book_id");--> statement-breakpoint
CREATE INDEX "book_changes_book" ON "book_changes" USING btree ("book_id");--> statement-breakpoint
CREATE INDEX "fills_position" ON "fills" USING btree ("position_id");--> statement-breakpoint
CREATE INDEX "fills_import" ON "fills" USING btree ("import_id");--> statement-breakpoint
CREATE INDEX "fills_time" ON "fills" USING btree ("time");
--> statement-breakpoint
CREATE VIEW "booked_fills" AS
	SELECT f."id", f."time", f."symbol", f."expiry", f."settlement", f."strike", f."side", f."quantity", f."price", f."fee", f."tag",
		b."name" AS "book", p."name" AS "position"
	FROM "fills" f JOIN "book_positions" p ON p."id" = f."position_id" JOIN "books" b ON b."id" = p."book_id";--> statement-breakpoint
CREATE VIEW "booked_lots" AS
	SELECT "id", "symbol", "expiry", "settlement", "strike", "side", "quantity", "price", "time" AS "opened", "tag"
	FROM (SELECT f.*, sum("quantity") OVER (PARTITION BY "position_id", "symbol", "expiry", "settlement", "strike", "side") AS "left" FROM "fills" f) held
	WHERE "left" <> 0;--> statement-breakpoint
INSERT INTO "books" ("name", "currency")
	SELECT 'Main', coalesce(min(u."currency"), 'ICR') FROM "positions" p JOIN "underlyings" u USING ("symbol") HAVING count(*) > 0;--> statement-breakpoint
INSERT INTO "book_positions" ("book_id", "symbol", "name")
	SELECT b."id", min(p."symbol"), coalesce(nullif(p."tag", ''), p."symbol") FROM "positions" p, "books" b
	GROUP BY b."id", coalesce(nullif(p."tag", ''), p."symbol");--> statement-breakpoint
INSERT INTO "fills" ("position_id", "time", "symbol", "expiry", "settlement", "strike", "side", "quantity", "price", "tag")
	SELECT bp."id", p."opened", p."symbol", p."expiry", p."settlement",
		p."strike", p."side", p."quantity", p."price", p."tag"
	FROM "positions" p JOIN "book_positions" bp ON bp."name" = coalesce(nullif(p."tag", ''), p."symbol");--> statement-breakpoint
DELETE FROM "journal" WHERE "table_name" = 'positions';--> statement-breakpoint
CREATE TRIGGER changed_by_insert AFTER INSERT ON "settlements" REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes();--> statement-breakpoint
CREATE TRIGGER changed_by_update AFTER UPDATE ON "settlements" REFERENCING NEW TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes();--> statement-breakpoint
CREATE TRIGGER changed_by_delete AFTER DELETE ON "settlements" REFERENCING OLD TABLE AS touched FOR EACH STATEMENT EXECUTE FUNCTION note_changes();

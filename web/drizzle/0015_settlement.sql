ALTER TABLE "prints" ADD COLUMN "settlement" text;--> statement-breakpoint
ALTER TABLE "positions" ADD COLUMN "settlement" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "positions" DROP CONSTRAINT "positions_symbol_expiry_strike_side_quantity_price_opened_tag_occurrence_pk";--> statement-breakpoint
ALTER TABLE "positions" ADD CONSTRAINT "positions_symbol_expiry_strike_side_settlement_quantity_price_opened_tag_occurrence_pk" PRIMARY KEY("symbol","expiry","strike","side","settlement","quantity","price","opened","tag","occurrence");--> statement-breakpoint
UPDATE "journal" SET "key" = "key" || '{"settlement": ""}', "before" = "before" || '{"settlement": ""}' WHERE "table_name" = 'positions';--> statement-breakpoint
ALTER TABLE "borrowings" ALTER COLUMN "source_expiry" SET DATA TYPE text;

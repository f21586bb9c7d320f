ALTER TABLE "borrowings" DROP CONSTRAINT "borrowings_symbol_underlyings_symbol_fk";
--> statement-breakpoint
ALTER TABLE "borrowings" DROP CONSTRAINT "borrowings_source_underlyings_symbol_fk";
--> statement-breakpoint
ALTER TABLE "structures" DROP CONSTRAINT "structures_symbol_underlyings_symbol_fk";
--> statement-breakpoint
ALTER TABLE "structures" ADD COLUMN "dropped" timestamp with time zone;
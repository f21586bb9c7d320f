CREATE TABLE "verdicts" (
	"symbol" text NOT NULL,
	"asof" timestamp with time zone NOT NULL,
	"expiry" date NOT NULL,
	"settlement" text NOT NULL,
	"strike" double precision NOT NULL,
	"side" text NOT NULL,
	"verdict" text NOT NULL,
	CONSTRAINT "verdicts_symbol_asof_expiry_settlement_strike_side_pk" PRIMARY KEY("symbol","asof","expiry","settlement","strike","side")
);
--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "aside" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "expiry_aside" text;--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "quality" double precision;--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "quality_parts" jsonb;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "quality" double precision;
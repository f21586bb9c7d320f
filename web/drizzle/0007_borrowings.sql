CREATE TABLE "borrowings" (
	"symbol" text NOT NULL,
	"expiry" date NOT NULL,
	"settlement" text NOT NULL,
	"source" text NOT NULL,
	"source_expiry" date,
	"map" text NOT NULL,
	"ratio" double precision,
	"price_offset" double precision NOT NULL,
	"vol_shift" double precision NOT NULL,
	"slope" double precision NOT NULL,
	"curvature" double precision NOT NULL,
	CONSTRAINT "borrowings_symbol_expiry_settlement_pk" PRIMARY KEY("symbol","expiry","settlement")
);
--> statement-breakpoint
ALTER TABLE "borrowings" ADD CONSTRAINT "borrowings_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "borrowings" ADD CONSTRAINT "borrowings_source_underlyings_symbol_fk" FOREIGN KEY ("source") REFERENCES "public"."underlyings"("symbol") ON DELETE cascade ON UPDATE no action;
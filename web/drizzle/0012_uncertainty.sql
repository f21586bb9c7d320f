ALTER TABLE "fits" ADD COLUMN "curve_shape" text DEFAULT 'own' NOT NULL;--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "atm_vol_uncertainty" double precision;--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "risk_reversal_25_uncertainty" double precision;--> statement-breakpoint
ALTER TABLE "fits" ADD COLUMN "straddle_uncertainty" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "iv30_uncertainty" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "risk_reversal_25_uncertainty" double precision;--> statement-breakpoint
ALTER TABLE "measures" ADD COLUMN "front_straddle_uncertainty" double precision;
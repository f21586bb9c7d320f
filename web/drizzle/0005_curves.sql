ALTER TABLE "fits" ADD COLUMN "curve" double precision[];--> statement-breakpoint
UPDATE "fits" SET "curve_kind" = 'svi3', "curve" = ARRAY["theta" / 2 * (1 - "rho" * "rho"), "theta" * "phi" / 2, "rho", -"rho" / "phi", sqrt(1 - "rho" * "rho") / "phi"] WHERE "phi" > 0;--> statement-breakpoint
UPDATE "fits" SET "curve" = ARRAY["theta", 0, 0, 0, 1] WHERE "phi" = 0;--> statement-breakpoint
ALTER TABLE "fits" DROP COLUMN "theta";--> statement-breakpoint
ALTER TABLE "fits" DROP COLUMN "rho";--> statement-breakpoint
ALTER TABLE "fits" DROP COLUMN "phi";

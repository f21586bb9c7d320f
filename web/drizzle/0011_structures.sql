CREATE TABLE "structures" (
	"id" serial PRIMARY KEY NOT NULL,
	"symbol" text NOT NULL,
	"legs" jsonb NOT NULL,
	"quantity" double precision NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"asof" timestamp with time zone NOT NULL,
	"value" double precision,
	"mid" double precision,
	"created" timestamp with time zone DEFAULT now() NOT NULL,
	"changed" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "structures" ADD CONSTRAINT "structures_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE cascade ON UPDATE no action;
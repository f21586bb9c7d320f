CREATE TABLE "bars" (
	"symbol" text NOT NULL,
	"date" date NOT NULL,
	"open" double precision NOT NULL,
	"high" double precision NOT NULL,
	"low" double precision NOT NULL,
	"close" double precision NOT NULL,
	"volume" double precision,
	CONSTRAINT "bars_symbol_date_pk" PRIMARY KEY("symbol","date")
);
--> statement-breakpoint
CREATE TABLE "dividends" (
	"symbol" text NOT NULL,
	"ex_date" date NOT NULL,
	"kind" text NOT NULL,
	"amount" double precision NOT NULL,
	CONSTRAINT "dividends_symbol_ex_date_kind_pk" PRIMARY KEY("symbol","ex_date","kind")
);
--> statement-breakpoint
CREATE TABLE "events" (
	"symbol" text NOT NULL,
	"start" timestamp with time zone NOT NULL,
	"title" text NOT NULL,
	"kind" text,
	CONSTRAINT "events_symbol_start_title_pk" PRIMARY KEY("symbol","start","title")
);
--> statement-breakpoint
CREATE TABLE "fits" (
	"symbol" text NOT NULL,
	"asof" timestamp with time zone NOT NULL,
	"expiry" date NOT NULL,
	"settlement" text NOT NULL,
	"years" double precision NOT NULL,
	"days" double precision NOT NULL,
	"sessions" integer NOT NULL,
	"rate" double precision NOT NULL,
	"discount" double precision NOT NULL,
	"forward" double precision,
	"forward_source" text NOT NULL,
	"forward_uncertainty" double precision,
	"curve_kind" text,
	"theta" double precision,
	"rho" double precision,
	"phi" double precision,
	"rmse" double precision,
	"error_in_half_spreads" double precision,
	"atm_vol" double precision,
	"risk_reversal_25" double precision,
	"butterfly_25" double precision,
	"risk_reversal_10" double precision,
	"butterfly_10" double precision,
	"straddle_move" double precision,
	"deviation_move" double precision,
	"contracts" integer NOT NULL,
	"usable" integer NOT NULL,
	"refused" jsonb NOT NULL,
	"method" smallint NOT NULL,
	CONSTRAINT "fits_symbol_asof_expiry_settlement_pk" PRIMARY KEY("symbol","asof","expiry","settlement")
) PARTITION BY RANGE ("asof");
--> statement-breakpoint
CREATE TABLE "imports" (
	"id" serial PRIMARY KEY NOT NULL,
	"file" text NOT NULL,
	"what" text,
	"status" text NOT NULL,
	"detail" text,
	"rows" integer DEFAULT 0 NOT NULL,
	"bad_rows" integer DEFAULT 0 NOT NULL,
	"counts" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"faults" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"ignored_columns" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"started" timestamp with time zone DEFAULT now() NOT NULL,
	"finished" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "measures" (
	"symbol" text NOT NULL,
	"asof" timestamp with time zone NOT NULL,
	"price" double precision,
	"iv7" double precision,
	"iv30" double precision,
	"iv60" double precision,
	"iv90" double precision,
	"iv180" double precision,
	"iv360" double precision,
	"risk_reversal_25" double precision,
	"term_slope" double precision,
	"front_expiry" date,
	"front_straddle_move" double precision,
	"front_deviation_move" double precision,
	"contracts" integer NOT NULL,
	"usable" integer NOT NULL,
	"volume" double precision,
	"open_interest" double precision,
	"rmse" double precision,
	"method" smallint NOT NULL,
	CONSTRAINT "measures_symbol_asof_pk" PRIMARY KEY("symbol","asof")
) PARTITION BY RANGE ("asof");
--> statement-breakpoint
CREATE TABLE "rates" (
	"currency" text NOT NULL,
	"date" date NOT NULL,
	"days" integer NOT NULL,
	"rate" double precision NOT NULL,
	CONSTRAINT "rates_currency_date_days_pk" PRIMARY KEY("currency","date","days")
);
--> statement-breakpoint
CREATE TABLE "settings" (
	"key" text PRIMARY KEY NOT NULL,
	"value" text NOT NULL,
	"changed" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "slices" (
	"symbol" text NOT NULL,
	"asof" timestamp with time zone NOT NULL,
	"expiry" date NOT NULL,
	"settlement" text NOT NULL,
	"strike" double precision[] NOT NULL,
	"call_bid" double precision[] NOT NULL,
	"call_ask" double precision[] NOT NULL,
	"call_bid_size" double precision[] NOT NULL,
	"call_ask_size" double precision[] NOT NULL,
	"call_last" double precision[] NOT NULL,
	"call_volume" double precision[] NOT NULL,
	"call_open_interest" double precision[] NOT NULL,
	"put_bid" double precision[] NOT NULL,
	"put_ask" double precision[] NOT NULL,
	"put_bid_size" double precision[] NOT NULL,
	"put_ask_size" double precision[] NOT NULL,
	"put_last" double precision[] NOT NULL,
	"put_volume" double precision[] NOT NULL,
	"put_open_interest" double precision[] NOT NULL,
	CONSTRAINT "slices_symbol_asof_expiry_settlement_pk" PRIMARY KEY("symbol","asof","expiry","settlement")
) PARTITION BY RANGE ("asof");
--> statement-breakpoint
CREATE TABLE "snapshots" (
	"symbol" text NOT NULL,
	"asof" timestamp with time zone NOT NULL,
	"price" double precision,
	"contracts" integer NOT NULL,
	"digest" text NOT NULL,
	"import_id" integer NOT NULL,
	CONSTRAINT "snapshots_symbol_asof_pk" PRIMARY KEY("symbol","asof")
);
--> statement-breakpoint
CREATE TABLE "underlyings" (
	"symbol" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"currency" text,
	"multiplier" double precision NOT NULL,
	"exercise" text NOT NULL,
	"family" text,
	"family_ratio" double precision,
	"calendar" text,
	"root" text,
	"expires" date,
	"tick" double precision
);
--> statement-breakpoint
ALTER TABLE "bars" ADD CONSTRAINT "bars_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "dividends" ADD CONSTRAINT "dividends_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "snapshots" ADD CONSTRAINT "snapshots_symbol_underlyings_symbol_fk" FOREIGN KEY ("symbol") REFERENCES "public"."underlyings"("symbol") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "snapshots_asof" ON "snapshots" USING btree ("asof");
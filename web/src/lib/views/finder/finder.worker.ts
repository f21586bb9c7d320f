import {
  candidateFormula,
  eventVariances,
  findCandidates,
  finderMarket,
  foundOf,
  FoundRanking,
  writtenOn,
  expiryTerms,
  expiryName,
  type BarColumns,
  type BestPer,
  type CashDividend,
  type FinderAsked,
  type FinderMeasure,
  type FoundRow,
  type Histogram,
  type MeasureLimit,
  type VolModel,
  type RankedFound,
  type Scatter,
  type Weight,
} from '@umwelt/core';
import * as Comlink from 'comlink';
import { measureNamed } from '$lib/columns';
import type { LoadedSnapshot } from '$lib/data';

/** An underlying at a moment with all that is known around it. */
export interface LookRequest {
  snapshot: LoadedSnapshot;
  asked: FinderAsked;
  own: VolModel | number;
  isRecentred: boolean;
  /** Known by then. */
  bars: BarColumns;
  /** Announcements and cash dividends to come, in years. */
  events: readonly number[];
  dividends: readonly CashDividend[];
  family: string | null;
  multiplier: number;
  /** What expiries settled at since, by their names; NaN where that is not known. */
  settled: Readonly<Record<string, number>>;
  histograms: readonly FinderMeasure[];
}

/** What was made. */
export interface LookAnswer {
  made: number;
  over: number;
  quotesOut: number;
  expiriesOut: number;
  /** Whether past moves are known to one of its expiries. */
  hasPast: boolean;
  histograms: Partial<Record<FinderMeasure, Histogram | null>>;
}

/** How what was made is ordered. */
export interface OrderRequest {
  weights: readonly Weight[];
  limits: readonly MeasureLimit[];
  /** Conditions that are more than a limit, with the values of what they ask of the underlying. */
  formulas: readonly { source: string; outside: readonly number[] }[];
  each: number | undefined;
  per: BestPer;
  isUndominated: boolean;
  most: number;
}

/** What was found in order. Rows that were sent before with the same scores are not sent again. */
export interface OrderAnswer extends RankedFound {
  /** Whether none of what was sent before holds. */
  isAnew: boolean;
  /** Those that were not sent yet, by their places. */
  fresh: [place: number, row: FoundRow][];
}

/** Looks through the underlying in view off the page's thread. What was made stays here; rows go out. */
let ranking: FoundRanking | null = null;
/** Places of rows that the page has, and the weights that they were scored by. */
let sent = { by: '', places: new Set<number>() };

const worker = {
  look({ snapshot, asked, own, isRecentred, bars, events, dividends, ...on }: LookRequest): LookAnswer {
    const written = writtenOn(snapshot, snapshot);
    const { slices, symbol, instant } = snapshot;
    const first = slices.find(({ fit }) => fit.forward > 0);
    const spot = snapshot.price > 0 ? snapshot.price : first ? expiryTerms(written, first.fit).spot : NaN;
    const variances = eventVariances(
      slices.map(({ fit }) => fit),
      events,
    );
    const market = finderMarket({
      ...{ slices, announced: events, bars, own, isRecentred },
      around: { on: written, spot, dividends, events: variances },
    });
    const candidates = findCandidates(market, asked);
    const { family, multiplier, settled } = on;
    const found = foundOf(
      candidates,
      { symbol, family, asof: instant, price: spot, multiplier },
      (expiry) => settled[expiryName(expiry)] ?? NaN,
    );
    ranking = new FoundRanking([found]);
    sent = { by: '', places: new Set() };
    const { over, quotesOut, expiriesOut, table } = candidates;
    return {
      ...{ made: table.count, over, quotesOut, expiriesOut },
      hasPast: found.expiries.some(({ independent }) => independent > 0),
      histograms: Object.fromEntries(on.histograms.map((measure) => [measure, ranking!.histogram(measure)])),
    };
  },

  /** The same of one more measure. */
  histogram: (measure: FinderMeasure): Histogram | null => ranking?.histogram(measure) ?? null,

  /** Where candidates lie by two measures. */
  scatter: (x: FinderMeasure, y: FinderMeasure): Scatter | null => ranking?.scatter(x, y) ?? null,

  /** @returns null before anything was looked through */
  order({ formulas, ...asked }: OrderRequest): OrderAnswer | null {
    if (!ranking) return null;
    const { weights } = asked;
    const ranked = ranking.rank({
      ...asked,
      formulas: formulas.map(({ source }) => candidateFormula(source, measureNamed)),
      outside: (_, formula, part) => formulas[formula]!.outside[part]!,
    });
    const by = JSON.stringify(weights);
    const isAnew = by !== sent.by;
    if (isAnew) sent = { by, places: new Set() };
    const places = [...ranked.order].filter((place) => !sent.places.has(place));
    for (const place of places) sent.places.add(place);
    const rows = ranking.rows(places, weights);
    return { ...ranked, isAnew, fresh: places.map((place, i) => [place, rows[i]!]) };
  },
};

export type FinderWorker = typeof worker;

Comlink.expose(worker);

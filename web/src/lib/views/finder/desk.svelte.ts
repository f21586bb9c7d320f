import {
  dayOf,
  expiryName,
  settledSince,
  type BarColumns,
  type FinderMeasure,
  type FoundRow,
  type Histogram,
  type RankedFound,
  type Scatter,
  type TradedDay,
} from '@umwelt/core';
import { call } from '$lib/api/call';
import { barsTo, Loaded, problemOf, type HistoryRow, type Workbench } from '$lib/state';
import { SHIPPED_SCREENS } from '$lib/columns';
import { Latest } from '$lib/data/latest';
import { aroundLegs } from '$lib/structure';
import { whenReleased } from '$lib/ui';
import { conditionsOf, faultsOf, makingOf, questionOf, templateOf, type FinderRequest } from './asked';
import type { LookAnswer, LookRequest } from './finder.worker';
import { outsideOf } from './outside';
import { PARAMS, type FinderParams } from './params';
import { inHand, inOrder, keyOf } from './rows';
import { findOverMany, type FoundOverMany } from './stream';
import { finderWorker } from './worker';

/** Rows that are shown at most: of the underlying in view, and of many. */
const MOST_ROWS = 150;
const MOST_OF_MANY = 200;
/** Nothing is asked of the server while a hand still moves. */
const REST_MS = 180;

/** What was found, as the panels show it. */
export interface FinderShown {
  readonly made: number;
  readonly within: number;
  /** By condition of the address: how many it leaves out alone. */
  readonly leftOut: readonly number[];
  readonly unknown: number;
  readonly dominated: number;
  readonly further: number;
  readonly over: number;
  readonly quotesOut: number;
  readonly skipped: readonly { symbol: string; why: string }[];
  readonly bestOfNone: number;
  readonly rows: readonly FoundRow[];
  readonly histograms: Readonly<Partial<Record<FinderMeasure, Histogram | null>>>;
  /** Where candidates lie by the two measures of the picture; null where it is not drawn. */
  readonly scatter: Scatter | null;
}

/** What the panels of the Finder share: what is looked for, what was found, and the row in focus. */
export class FinderDesk {
  readonly params: FinderParams;
  shown = $state.raw<FinderShown | null>(null);
  problem = $state<string | null>(null);
  /** How many underlyings have been looked through, while that goes on. */
  progress = $state.raw<{ done: number; of: number } | null>(null);
  isLooking = $state(false);
  private looked: { key: string; answer: LookAnswer } | null = null;
  /** Rows that the worker has sent, by their places among all that were made. */
  private known: Record<number, FoundRow> = {};
  private readonly latest = new Latest<FinderShown | null>(
    (shown) => {
      this.problem = null;
      this.shown = shown;
      this.isLooking = false;
    },
    (problem) => {
      this.problem = problem;
      this.isLooking = false;
    },
  );

  /** Symbols that a screen leaves. */
  private readonly screened = new Loaded<readonly string[]>(() => {
    const { place, screen: name } = this.params;
    const { asof } = this.bench.context;
    void this.bench.market.edition;
    return place === 'screen' && name !== '' ? symbolsOf(name, asof) : null;
  });
  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => this.latest.stop);
    $effect(() => this.follow());
  }

  /** Conditions that make no sense, by their place. */
  readonly faults = $derived.by(() => faultsOf(this.params.conditions));

  /** Rows in their order. */
  readonly rows: readonly FoundRow[] = $derived.by(() => inOrder(this.shown?.rows ?? [], this.params.rowOrder));

  /** The row in focus: the one that the address names, or the first. */
  readonly row: FoundRow | null = $derived.by(() => {
    const { row: key } = this.params;
    return this.rows.find((row) => keyOf(row) === key) ?? this.rows[0] ?? null;
  });

  choose(row: FoundRow): void {
    this.params.row = keyOf(row);
  }

  /** The underlyings that are looked through; null for all, undefined while they are not known. */
  readonly places: readonly string[] | null | undefined = $derived.by(() => {
    const { place, symbols } = this.params;
    const { symbol } = this.bench.context;
    if (place === 'all') return null;
    if (place === 'focus') return symbol ? [symbol] : undefined;
    if (place === 'chosen') return symbols;
    return this.screened.value ?? undefined;
  });

  private follow(): (() => void) | undefined {
    const { place } = this.params;
    if (this.faults.size > 0) return;
    if (place === 'focus') {
      this.progress = null;
      const asked = this.lookRequest;
      if (!asked) {
        this.shown = null;
        return;
      }
      const order = this.orderOf();
      const { symbol } = this.bench.context;
      this.isLooking = true;
      this.latest.ask(() => this.findHere(asked, order, symbol!));
      return;
    }
    return this.findThere();
  }

  /** All that is known of the underlying in view; null while it is not. */
  private readonly lookRequest: Omit<LookRequest, 'histograms'> | null = $derived.by(() => {
    const { params, bench } = this;
    const { shown, snapshot, lastBar } = bench.snapshot;
    const { underlying, bars, current, calendar } = bench.market;
    if (params.place !== 'focus' || !shown || !snapshot || !underlying || !bars || !current) return null;
    const years = snapshot.slices.map(({ fit }) => fit.years);
    const around = aroundLegs(current.events, calendar, snapshot.instant, years);
    const last = bars.at[lastBar] ?? -1;
    const splits = current.events.flatMap(({ kind, date }) => (kind === 'dividend split' ? [date] : []));
    const settledAt = settledSince(current.history.flatMap(tradedOn), splits, dayOf(calendar, snapshot.instant));
    return {
      snapshot,
      asked: makingOf(params, underlying.multiplier),
      own: params.own === 'typed' ? params.ownTyped / 100 : params.own,
      isRecentred: params.isRecentred,
      bars: copied(barsTo(bars, last)),
      ...{ events: around.events, dividends: around.dividends },
      ...{ family: underlying.family, multiplier: underlying.multiplier },
      settled: Object.fromEntries(snapshot.slices.map(({ fit }) => [expiryName(fit), settledAt(fit)])),
    };
  });

  private orderOf() {
    const { weights, conditions: keep, each, per, isUndominated, limited } = this.params;
    const { foundAs: pictured, scatterX, scatterY } = this.params;
    return {
      ...{ weights: weights.map((one) => ({ ...one })), conditions: conditionsOf(keep), count: keep.length },
      ...{ each: each > 0 ? each : undefined, per, isUndominated, limited: [...limited] },
      scatter: pictured === 'scatter' ? ([scatterX, scatterY] as const) : null,
    };
  }

  private async findHere(
    asked: Omit<LookRequest, 'histograms'>,
    order: ReturnType<FinderDesk['orderOf']>,
    symbol: string,
  ): Promise<FinderShown | null> {
    const worker = finderWorker();
    const { asof } = asked.snapshot;
    const { asked: making, own, isRecentred } = asked;
    const { edition } = this.bench.market;
    const key = JSON.stringify([symbol, asof, making, own, isRecentred, edition]);
    if (this.looked?.key !== key) {
      this.looked = null;
      const answer = await worker.look({ ...asked, histograms: order.limited });
      this.looked = { key, answer };
    }
    const { answer } = this.looked;
    for (const measure of order.limited)
      if (!(measure in answer.histograms)) answer.histograms[measure] = await worker.histogram(measure);
    const { limits, formulas } = order.conditions;
    const ranked = await worker.order({
      weights: order.weights,
      limits: limits.map(({ limit }) => limit),
      formulas: await Promise.all(
        formulas.map(async ({ source }) => ({ source, outside: await outsideOf(source, symbol, asof, edition) })),
      ),
      ...{ each: order.each, per: order.per, isUndominated: order.isUndominated, most: MOST_ROWS },
    });
    if (!ranked) return null;
    const scatter = order.scatter && (await worker.scatter(...order.scatter));
    const leftOut = new Array<number>(order.count).fill(0);
    [...limits, ...formulas].forEach(({ at }, i) => (leftOut[at] = ranked.leftOut[i]!));
    const why =
      answer.made > 0
        ? answer.hasPast
          ? null
          : 'too few past moves'
        : answer.expiriesOut > 0
          ? 'no curve in these days'
          : 'nothing in these days and limits';
    if (ranked.isAnew) this.known = {};
    for (const [place, row] of ranked.fresh) this.known[place] = row;
    const rows = Array.from(ranked.order, (place) => this.known[place]!);
    return {
      ...{ ...plainOf(ranked), rows },
      ...{ leftOut, over: answer.over, quotesOut: answer.quotesOut, histograms: { ...answer.histograms }, scatter },
      skipped: why ? [{ symbol, why }] : [],
    };
  }

  private findThere(): (() => void) | undefined {
    const { places, params, bench } = this;
    const { asof } = bench.context;
    void bench.market.edition;
    if (places === undefined || places?.length === 0) {
      this.shown = null;
      this.progress = null;
      this.isLooking = false;
      return;
    }
    const terms = templateOf(params);
    const request: FinderRequest = {
      ...terms,
      ...(places && { symbols: [...places] }),
      ...(asof && { asof }),
      top: { ...terms.top, all: MOST_OF_MANY },
      histograms: [...params.limited],
      ...(params.foundAs === 'scatter' && { scatter: { x: params.scatterX, y: params.scatterY } }),
      drawn: true,
    };
    const controller = new AbortController();
    const { signal } = controller;
    const take = (found: FoundOverMany) => {
      if (signal.aborted) return;
      this.problem = null;
      this.shown = shownOf(found);
    };
    this.isLooking = true;
    const timer = setTimeout(() => {
      findOverMany(request, signal, (done, of) => !signal.aborted && (this.progress = { done, of }), take).then(
        (found) => {
          if (signal.aborted) return;
          take(found);
          this.isLooking = false;
          this.progress = null;
        },
        (error: unknown) => {
          if (signal.aborted) return;
          this.problem = problemOf(error);
          this.isLooking = false;
          this.progress = null;
        },
      );
    }, REST_MS);
    this.cancel = () => {
      controller.abort();
      clearTimeout(timer);
      this.isLooking = false;
      this.progress = null;
    };
    return () => {
      controller.abort();
      clearTimeout(timer);
    };
  }

  /** Ends what is under way over many underlyings; what was found so far stays. */
  cancel: () => void = () => undefined;

  /** Takes a row in hand: its underlying comes into view where it is another. */
  takeInHand(row: FoundRow): void {
    const { address, context } = this.bench;
    address.choose(row.symbol);
    Object.assign(context, inHand(row));
  }

  /** What the row in focus comes to by every basis. */
  readonly evaluated = new Loaded((signal) => {
    const { row, params, bench } = this;
    const { asof } = bench.context;
    if (!row) return null;
    const path = { symbol: row.symbol };
    const body = questionOf(row, { asof, slip: params.slip, fee: params.contractFee });
    // While a limit is dragged the first row is another at every step: the last of them is asked about.
    const released = new Promise<void>((resolve) => void whenReleased(resolve));
    return released.then(() => call('POST /underlyings/{symbol}/structures/evaluate', { path, body, signal }));
  });
}

/** What a row of the history says was traded on its day. */
function tradedOn({ date, open, close }: HistoryRow): TradedDay[] {
  return typeof open === 'number' && typeof close === 'number' ? [{ date, open, close }] : [];
}

/** A part of longer arrays would be sent whole. */
const copied = (bars: BarColumns): BarColumns => ({
  open: bars.open.slice(),
  high: bars.high.slice(),
  low: bars.low.slice(),
  close: bars.close.slice(),
});

const plainOf = ({ made, within, unknown, dominated, further, bestOfNone }: RankedFound) => ({
  ...{ made, within, dominated, further, bestOfNone },
  unknown: unknown.reduce((most, count) => Math.max(most, count), 0),
});

function shownOf(found: FoundOverMany): FinderShown {
  const { made, within, dominated, further, bestOfNone, rows, over, quotesOut, skipped, scatter } = found;
  return {
    ...{ made, within, dominated, further, bestOfNone, rows, over, quotesOut, skipped, scatter },
    leftOut: found.leftOut.map(({ count }) => count),
    unknown: found.unknown.reduce((most, { count }) => Math.max(most, count), 0),
    histograms: Object.fromEntries(found.histograms.map(({ measure, ...told }) => [measure, told])),
  };
}

/** The underlyings that a screen leaves, kept or one that comes with the application. */
async function symbolsOf(name: string, asof: string | null): Promise<readonly string[]> {
  const { screens } = await call('GET /screens');
  const found = screens.find((one) => one.name === name) ?? SHIPPED_SCREENS.find((one) => one.name === name);
  if (!found) throw new Error(`There is no screen called ${name}.`);
  const { filters, kinds, families } = found;
  const { rows } = await call('POST /screen', {
    body: { ...(asof && { asof }), filters: [...filters], kinds: [...kinds], families: [...families] },
  });
  return rows.map(({ symbol }) => symbol);
}

import {
  coneSlice,
  historicalVol,
  premiumByRegime,
  premiumOf,
  premiumSessions,
  regimeOf,
  VOL_WINDOWS,
  isSameExpiry,
} from '@umwelt/core';
import { type PathLine } from './charts/history';
import { barsTo, type Workbench } from '$lib/state';
import {
  historicalOf,
  IMPLIED_LABELS,
  impliedErrorOf,
  impliedOf,
  LOWER_LABELS,
  lowerOf,
  sessionsOf,
  standingOf,
  type Sessions,
} from './sessions';
import { PARAMS, type HistoryParams } from './params';

/** Windows of the cone, in sessions. */
const CONE_WINDOWS = [5, ...VOL_WINDOWS.filter((window) => window < 252), 120, 252].toSorted((a, b) => a - b);
/** Sessions in thirty days: the horizon after which an implied vol of that time is held against what came. */
export const HORIZON = 21;

/** What History computes for its panels at the moment in view. */
export class HistoryDesk {
  private readonly params: HistoryParams;
  readonly sessions: Sessions | null = $derived.by(() => {
    const { current, bars, calendar } = this.bench.market;
    const { summary } = this.bench.moment;
    return current && bars && summary
      ? sessionsOf(current.history, bars, current.snapshots, calendar, summary, current.events)
      : null;
  });
  /** The same of all that is held, which the axes hold. */
  private readonly whole: Sessions | null = $derived.by(() => {
    const { current, bars, calendar } = this.bench.market;
    const last = current?.snapshots.at(-1);
    return current && bars && last
      ? sessionsOf(current.history, bars, current.snapshots, calendar, last, current.events)
      : null;
  });
  /** Sessions of the window of historical vols: those until the expiry in focus where it is asked for. */
  readonly window: number = $derived.by(() => {
    const { quoted: shownExpiries } = this.bench.snapshot;
    const { current: focus } = this.bench.focus;
    if (this.params.window > 0) return this.params.window;
    const focused = shownExpiries.find((one) => focus !== null && isSameExpiry(one, focus)) ?? shownExpiries[0];
    return Math.round(focused?.sessions ?? 0);
  });

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    // What plays needs no quotes.
    $effect(() => bench.playback.wantFilm());
  }

  private linesOf(sessions: Sessions) {
    const { bars } = this.bench.market;
    const implied = this.params.implied.map((name) => ({
      name,
      label: IMPLIED_LABELS[name],
      values: impliedOf(sessions, name),
      errors: impliedErrorOf(sessions, name),
    }));
    const historical = this.params.estimators.map((estimator) => historicalOf(sessions, bars!, estimator, this.window));
    const lower = lowerOf(sessions, this.params.lower, implied[0]!.values, historical[0]!.known);
    return { implied, historical, lower };
  }

  /** Series of the sessions, vols as decimals. */
  readonly lines = $derived.by(() => (this.sessions ? this.linesOf(this.sessions) : null));
  /** Values of all that is held, in per cent. */
  readonly reach = $derived.by(() => {
    if (!this.whole) return null;
    const { implied, historical, lower } = this.linesOf(this.whole);
    const vols = [...implied.map(({ values }) => values), ...historical.map(({ own }) => own)];
    return {
      close: [...this.whole.close],
      vols: vols.flatMap((values) => Array.from(values, (vol) => 100 * vol)),
      lower: [...lower],
    };
  });

  /** Where everything that is drawn stands in its lookback. */
  readonly standings = $derived.by(() => {
    const { sessions, lines } = this;
    if (!sessions || !lines) return [];
    const { lookback, lower } = this.params;
    const of = (
      name: string,
      values: Float64Array,
      kind: 'implied' | 'historical' | 'lower',
      at = 0,
      errors: Float64Array | null = null,
    ) => ({
      kind,
      at,
      name,
      /** One standard error of what it is now. */
      error: errors?.at(-1) ?? null,
      standing: standingOf(name, sessions.dates, values, lookback),
    });
    return [
      ...lines.implied.map(({ label, values, errors }, i) => of(label, values, 'implied', i, errors)),
      ...lines.historical.map(({ name, own }, i) => of(name, untilLast(own), 'historical', i)),
      of(LOWER_LABELS[lower].name, lines.lower, 'lower'),
    ];
  });

  readonly gaps = $derived.by(() => {
    const { lines } = this;
    return lines ? Array.from(lines.implied[0]!.values, (vol, i) => vol - lines.historical[0]!.known[i]!) : [];
  });

  /** Lines as the chart draws them, from a session on. */
  pathLines(from: number): { implied: PathLine[]; historical: PathLine[] } {
    const { lines, window } = this;
    const points = (values: Float64Array) => Array.from(values.subarray(from), (vol) => 100 * vol);
    return {
      implied: lines!.implied.map(({ name, label, values, errors }) => ({
        ...{ name, label, values: points(values) },
        errors: errors ? points(errors) : undefined,
      })),
      historical: lines!.historical.map(({ name, own }) => ({
        name,
        label: `${name.split('.')[1]} ${window} d`,
        values: points(own),
      })),
    };
  }

  /** The last bar that is over; −1 without any. */
  readonly lastBar = $derived.by(() => this.sessions?.own.findLast((bar) => bar >= 0) ?? -1);

  /** Quantiles of the first estimator's vols by window, of the bars that are over. */
  readonly cone = $derived.by(() => {
    const { bars } = this.bench.market;
    const last = this.lastBar;
    if (!bars || last < 0) return [];
    const known = barsTo(bars, last);
    return CONE_WINDOWS.map((window) => coneSlice(historicalVol(known, this.params.estimators[0]!, window), window));
  });

  /** Vols at the money by sessions to expiry. */
  readonly term = $derived.by(() =>
    this.bench.snapshot.expiries
      .filter(({ curve, expiryAside, sessions }) => curve !== null && expiryAside === null && sessions >= 2)
      .map(({ sessions, atmVol, expiry }) => ({ sessions: Math.round(sessions), vol: atmVol, expiry })),
  );

  /** The first implied vol against what came after it. */
  readonly premium = $derived.by(() => {
    const { sessions, lines } = this;
    if (!sessions || !lines) return null;
    const close = adjustedCloses(sessions, this.bench.market.bars!.close);
    const [implied, realized] = [lines.implied[0]!.values, lines.historical[0]!.known];
    const { lookback } = this.params;
    const length = lookback === 0 ? implied.length : lookback;
    const all = premiumSessions({ implied, realized, close }, HORIZON, length);
    return {
      sessions: all,
      summary: premiumOf(all),
      byRegime: premiumByRegime(all),
      regime: regimeOf(all.at(-1)?.rank ?? NaN),
      /** Against what was known, for the share of sessions over. */
      against: premiumOf(all, 'realized'),
    };
  });
}

/** The own values up to the last bar: a session that is not over has none, and counts as no session of it. */
function untilLast(own: Float64Array): Float64Array {
  return Number.isNaN(own.at(-1) ?? 0) ? own.subarray(0, own.length - 1) : own;
}

/** Closes of the sessions without the steps of dividends and splits; NaN of one that is not over. */
function adjustedCloses({ own }: Sessions, closes: Float64Array): Float64Array {
  return Float64Array.from(own, (bar) => (bar >= 0 ? closes[bar]! : NaN));
}

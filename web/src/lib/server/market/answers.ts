import {
  calendarById,
  curveVol,
  dayOf,
  expiryBefore,
  expiryClass,
  expiryName,
  impliedColumns,
  leanOf,
  midsOf,
  MILLISECONDS_PER_DAY,
  PAST_NUMBERS,
  reasonName,
  sideOf,
  slopePerTenDelta,
  termMeasures,
  valueSlice,
  writtenOn,
  type Adjustment,
  type BasisChoice,
  type ExpiryFit,
  type SideVols,
  type SliceQuotes,
  type WrittenOn,
  type Side,
} from '@umwelt/core';
import { adjusted, HISTORICAL_VOLS, bySession, USUAL_VOL, volByBar, type Bar } from './history';
import type { CurveRow } from './own-curves';
import type { StoredSnapshot } from './queries';
import { fittedSlices } from './rows';
import type { Underlying } from './terms';

const MILLISECONDS_PER_YEAR = 365 * MILLISECONDS_PER_DAY;

const SIDES = ['call', 'put'] as const;
const signOf = (side: Side) => (side === 'call' ? 1 : -1);

function plainSide(slice: SliceQuotes, side: Side) {
  const { bid, ask, bidSize, askSize, last, volume, openInterest } = sideOf(slice, side);
  return {
    ...{ bid: [...bid], ask: [...ask], bidSize: [...bidSize], askSize: [...askSize] },
    ...{ last: [...last], volume: [...volume], openInterest: [...openInterest] },
  };
}

/** Measures of a moment as the API writes them. */
export function summaryOf(measures: StoredSnapshot['measures']) {
  const { symbol: _symbol, method: _method, asof, ...rest } = measures;
  return { asof: asof.toISOString(), ...rest };
}

/** A whole snapshot as columns, with the fit of each expiry. */
export function snapshotAnswer({ kind, exercise }: Pick<Underlying, 'kind' | 'exercise'>, stored: StoredSnapshot) {
  const { snapshot, measures } = stored;
  return {
    symbol: snapshot.symbol,
    asof: new Date(snapshot.asof).toISOString(),
    kind,
    exercise,
    price: snapshot.price,
    measures: summaryOf(measures),
    slices: fittedSlices(stored).map(({ fit, ...slice }) => ({
      strike: Array.from(slice.strike),
      call: plainSide(slice, 'call'),
      put: plainSide(slice, 'put'),
      fit,
    })),
  };
}

function isListed(slice: SliceQuotes, side: Side, i: number): boolean {
  const quotes = sideOf(slice, side);
  return Number.isFinite(quotes.bid[i]!) || Number.isFinite(quotes.ask[i]!);
}

/** Contracts of a snapshot with implied vols and values under a basis. */
export function chainAnswer(underlying: Underlying, stored: StoredSnapshot, choice: BasisChoice) {
  const { snapshot } = stored;
  const on = writtenOn(snapshot, underlying);
  const chosen = fittedSlices(stored);
  const contracts = chosen.flatMap(({ fit, ...slice }) =>
    SIDES.flatMap((side) => {
      const vols = impliedColumns(slice.strike, sideOf(slice, side), fit, signOf(side), on);
      const values = valueSlice(
        slice.strike,
        fit,
        on,
        choice,
        { own: vols.mid, mid: midsOf(sideOf(slice, side)) },
        signOf(side),
      );
      return Array.from(slice.strike, (_, i) => i)
        .filter((i) => isListed(slice, side, i))
        .map((i) => contractAnswer(slice, side, vols, values, i));
    }),
  );
  return {
    symbol: snapshot.symbol,
    asof: new Date(snapshot.asof).toISOString(),
    price: snapshot.price,
    basis: choice.basis,
    expiries: chosen.map(({ fit }) => fit),
    contracts,
  };
}

function contractAnswer(
  slice: SliceQuotes,
  side: Side,
  vols: SideVols,
  values: ReturnType<typeof valueSlice>,
  i: number,
) {
  const quotes = sideOf(slice, side);
  const reason = reasonName(vols.reason[i]!);
  return {
    expiry: slice.expiry,
    settlement: slice.settlement,
    strike: slice.strike[i]!,
    side,
    bid: quotes.bid[i]!,
    ask: quotes.ask[i]!,
    mid: 0.5 * (quotes.bid[i]! + quotes.ask[i]!),
    bidVol: vols.bid[i]!,
    midVol: vols.mid[i]!,
    askVol: vols.ask[i]!,
    reason: reason === 'usable' ? null : reason,
    vol: values.vol[i]!,
    theory: values.theory[i]!,
    delta: values.delta[i]!,
    gamma: values.gamma[i]!,
    theta: values.theta[i]!,
    vega: values.vega[i]!,
    rho: values.rho[i]!,
    itm: values.itm[i]!,
    touch: values.touch[i]!,
    breakEven: values.breakEven[i]!,
    last: quotes.last[i]!,
    volume: quotes.volume[i]!,
    openInterest: quotes.openInterest[i]!,
  };
}

function surfacePoints(slice: SliceQuotes, fit: ExpiryFit, on: WrittenOn) {
  const vols = {
    call: impliedColumns(slice.strike, slice.call, fit, 1, on),
    put: impliedColumns(slice.strike, slice.put, fit, -1, on),
  };
  return Array.from(slice.strike).flatMap((strike, i) => {
    const side = strike < fit.forward ? 'put' : 'call';
    const columns = vols[side];
    if (columns.reason[i] !== 0) return [];
    const logMoneyness = Math.log(strike / fit.forward);
    return [
      {
        strike,
        side,
        logMoneyness,
        standardized: logMoneyness / (fit.atmVol * Math.sqrt(fit.years)),
        bidVol: columns.bid[i]!,
        midVol: columns.mid[i]!,
        askVol: columns.ask[i]!,
        curveVol: fit.curve ? curveVol(fit.curve, logMoneyness) : NaN,
      },
    ];
  });
}

/**
 * Skews and term structure of a snapshot.
 *
 * @param events moments of the announcements, in milliseconds
 */
export function surfaceAnswer(underlying: Underlying, stored: StoredSnapshot, events: readonly number[]) {
  const { snapshot } = stored;
  const on = writtenOn(snapshot, underlying);
  const calendar = calendarById(underlying.calendar);
  const fitted = stored.fits.filter((fit) => fit.curve).sort((a, b) => a.years - b.years);
  const used = fitted.filter((fit) => fit.years > 0 && fit.expiryAside === null);
  const ahead = events.map((at) => (at - snapshot.asof) / MILLISECONDS_PER_YEAR).filter((years) => years > 0);
  const carried = new Map(termMeasures(used, ahead).map((measures, i) => [used[i]!, measures] as const));
  const term = fitted.map((fit) => ({
    expiry: fit.expiry,
    settlement: fit.settlement,
    days: fit.days,
    class: expiryClass(calendar, fit.expiry),
    atmVol: fit.atmVol,
    // Of one that is set aside there is none, and none runs through it.
    forwardVol: carried.get(fit)?.forwardVol ?? NaN,
    ambientVol: carried.get(fit)?.ambientVol ?? NaN,
    eventMove: carried.get(fit)?.eventMove ?? NaN,
    // One vol for all strikes leans to no side, but because nobody knows.
    slope: fit.curve!.kind === 'flat' ? NaN : slopePerTenDelta(fit.curve!),
    lean: Number.isFinite(fit.riskReversal25) ? leanOf(fit.riskReversal25) : null,
  }));
  return {
    symbol: snapshot.symbol,
    asof: new Date(snapshot.asof).toISOString(),
    price: snapshot.price,
    slices: fittedSlices(stored).map(({ fit, ...slice }) => ({ ...fit, points: surfacePoints(slice, fit, on) })),
    term,
    calendarArbitrage: used.flatMap((fit, i) =>
      Number.isNaN(carried.get(fit)!.forwardVol)
        ? [{ near: expiryName(used[expiryBefore(used, i)]!), far: expiryName(fit) }]
        : [],
    ),
  };
}

const CURVE_COLUMNS = [
  'expiry',
  'settlement',
  'years',
  'days',
  'sessions',
  'rate',
  ...PAST_NUMBERS,
  'contracts',
  'usable',
  'expiryAside',
  'lowest',
  'highest',
  'near',
] as const satisfies readonly (keyof CurveRow)[];

/** Some fields of rows, each as a list. */
export function columnsOf<Row extends object, Name extends keyof Row>(rows: readonly Row[], names: readonly Name[]) {
  const columns = names.map((name) => [name, rows.map((row) => row[name])] as const);
  return Object.fromEntries(columns) as { [N in Name]: Row[N][] };
}

/** Curves of several moments as columns: a name for each of thousands of numbers would take most of the time. */
export function curvesAnswer(symbol: string, rows: readonly CurveRow[]) {
  const moments = [...new Set(rows.map(({ asof }) => asof.getTime()))];
  const position = new Map(moments.map((moment, i) => [moment, i]));
  return {
    symbol,
    moments: moments.map((moment) => new Date(moment).toISOString()),
    expiries: {
      moment: rows.map(({ asof }) => position.get(asof.getTime())!),
      ...columnsOf(rows, CURVE_COLUMNS),
      borrowedFrom: rows.map(({ borrowedFrom }) => borrowedFrom ?? null),
      kind: rows.map(({ curveKind }) => curveKind),
      parameters: rows.map(({ curve }) => (curve ? [...curve] : null)),
    },
  };
}

const BAR_SERIES = ['open', 'high', 'low', 'close', 'volume'] as const;
const MEASURE_SERIES = [
  'iv7',
  'iv30',
  'iv60',
  'iv90',
  'iv180',
  'iv360',
  'varianceIndex',
  'riskReversal25',
  'butterfly25',
  'riskReversal10',
  'butterfly10',
  'termSlope',
  'frontStraddleMove',
  'frontDeviationMove',
] as const;

/** The series that the history holds, and those that it gives unasked. */
export const SERIES: readonly string[] = [...BAR_SERIES, ...MEASURE_SERIES, ...HISTORICAL_VOLS];
export const USUAL_SERIES: readonly string[] = [...BAR_SERIES, ...MEASURE_SERIES, USUAL_VOL];

/**
 * Prices, implied measures and historical vols by session. Implied ones are those of the session's last
 * snapshot; a historical vol on a day counts the bar of the day, and knows neither dividends nor splits.
 */
export function historyRows(
  underlying: Underlying,
  bars: readonly Bar[],
  adjustments: readonly Adjustment[],
  measures: readonly StoredSnapshot['measures'][],
  series: readonly string[],
) {
  const calendar = calendarById(underlying.calendar);
  const measuredOn = new Map(
    bySession(calendar, measures).map((row) => [dayOf(calendar, row.asof.getTime()), row] as const),
  );
  const barOn = new Map(bars.map((bar, i) => [bar.date, i] as const));
  const held = adjusted(bars, adjustments);
  const vols = HISTORICAL_VOLS.filter((name) => series.includes(name)).map((name) => ({
    name,
    values: volByBar(held, name),
  }));
  const dates = [...new Set([...barOn.keys(), ...measuredOn.keys()])].sort();
  return dates.map((date) => {
    const measured = measuredOn.get(date);
    const at = barOn.get(date);
    const bar = at === undefined ? undefined : bars[at];
    const values: Record<string, number | null> = {};
    for (const name of BAR_SERIES) if (series.includes(name)) values[name] = bar?.[name] ?? null;
    for (const name of MEASURE_SERIES) if (series.includes(name)) values[name] = measured?.[name] ?? null;
    for (const { name, values: vol } of vols) values[name] = at === undefined ? NaN : vol[at]!;
    return Object.assign(values, { date, asof: measured?.asof.toISOString() ?? null });
  });
}

/** The measures that are looked at, by the names they are stored under. */
export const DOUBTED_MEASURES = [
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
  'straddleRatio',
] as const;
export type DoubtedMeasure = (typeof DOUBTED_MEASURES)[number];

/** Measures of an underlying at the end of a session; NaN or null for what there is not. */
export interface SessionMeasures {
  readonly price: number | null;
  readonly iv7: number | null;
  readonly iv30: number | null;
  readonly iv60: number | null;
  readonly iv90: number | null;
  readonly iv180: number | null;
  readonly iv360: number | null;
  readonly varianceIndex: number | null;
  readonly riskReversal25: number | null;
  readonly butterfly25: number | null;
  readonly riskReversal10: number | null;
  readonly butterfly10: number | null;
  readonly frontStraddleMove: number | null;
  readonly frontDeviationMove: number | null;
  readonly iv30Uncertainty: number | null;
  readonly riskReversal25Uncertainty: number | null;
  readonly frontStraddleUncertainty: number | null;
}

/** A measure that moves and comes back while nothing else does. */
export interface Doubtful {
  /** Position of the session, and how many sessions it is away for: one or two. */
  at: number;
  sessions: number;
  measure: DoubtedMeasure;
  value: number;
  /** What it is before and after, in the middle. */
  usual: number;
  /** By how many standard errors it is away. */
  errors: number;
}

const VOLS = ['iv7', 'iv30', 'iv60', 'iv90', 'iv180', 'iv360'] as const;
const WINGS = ['riskReversal25', 'butterfly25', 'riskReversal10', 'butterfly10'] as const;

/** A measure is away when it is further off than so many standard errors, and so many of its usual excursions. */
const AWAY_ERRORS = 4;
const AWAY_USUAL = 6;
/** It has come back when before and after are apart by less than this share of the way. */
const BACK = 0.4;
/** Others go with it when they go this share of the way. */
const WITH = 0.35;
/** The price, or for a skew the level of vol, goes with it when it goes away and comes back by so many of its usual excursions. */
const MARKET_WITH = 3;
/** Less is no jump: in vol, and in shares of a straddle. */
const LEAST: Record<'vol' | 'index' | 'ratio', number> = { vol: 0.004, index: 0.4, ratio: 0.03 };
const MOST_SESSIONS = 2;
const MEDIAN_SHARE = 0.6745;

const of = (value: number | null) => value ?? NaN;

/** A measure of a session with one standard error, and by what its excursions are told from nothing. */
function read(one: SessionMeasures, measure: DoubtedMeasure): { value: number; error: number; least: number } {
  const vol = of(one.iv30Uncertainty);
  const wing = of(one.riskReversal25Uncertainty);
  if (measure === 'straddleRatio') {
    const deviation = of(one.frontDeviationMove);
    return {
      value: of(one.frontStraddleMove) / deviation,
      error: of(one.frontStraddleUncertainty) / deviation,
      least: LEAST.ratio,
    };
  }
  const value = of(one[measure]);
  if (isWing(measure)) return { value, error: measure.endsWith('10') ? 2.5 * wing : wing, least: LEAST.vol };
  if (measure === 'varianceIndex') return { value, error: 150 * vol, least: LEAST.index };
  // A vol of another maturity is known about as well in proportion, the wings less well than the quarters.
  return { value, error: (1.5 * vol * value) / of(one.iv30), least: LEAST.vol };
}

function isWing(measure: DoubtedMeasure): boolean {
  return (WINGS as readonly string[]).includes(measure);
}

/** By how much a series is away at a session, from the middle of before and after. */
function excursion(values: readonly number[], at: number, sessions: number): number {
  const middle = 0.5 * (values[at - 1]! + values[at + sessions]!);
  return values[at]! - middle;
}

/** The usual size of excursions of one session (robust: 1.4826 × the median). */
function usualExcursion(values: readonly number[]): number {
  const sizes = values
    .slice(1, -1)
    .map((_, i) => Math.abs(excursion(values, i + 1, 1)))
    .filter(Number.isFinite)
    .sort((a, b) => a - b);
  return (sizes[sizes.length >> 1] ?? 0) / MEDIAN_SHARE;
}

/**
 * Finds measures that move and come back within two sessions while their neighbours and the price do not: the market does not do
 * that, a quote that cannot be meant does.
 *
 * @param sessions the last moment of each session, ascending
 */
export function doubtfulMeasures(sessions: readonly SessionMeasures[]): Doubtful[] {
  const series = Object.fromEntries(
    DOUBTED_MEASURES.map((name) => [name, sessions.map((one) => read(one, name))]),
  ) as Record<DoubtedMeasure, ReturnType<typeof read>[]>;
  const valuesOf = (name: DoubtedMeasure) => series[name].map(({ value }) => value);
  const values = Object.fromEntries(DOUBTED_MEASURES.map((name) => [name, valuesOf(name)])) as Record<
    DoubtedMeasure,
    number[]
  >;
  const logPrice = sessions.map(({ price }) => Math.log(of(price)));
  const usualPrice = usualExcursion(logPrice);
  const usualLevel = usualExcursion(values.iv30);
  const found: Doubtful[] = [];
  for (const measure of DOUBTED_MEASURES) {
    const own = values[measure];
    const usual = usualExcursion(own);
    const others = companions(measure);
    for (let at = 1; at + 1 < own.length; at++) {
      for (let length = 1; length <= MOST_SESSIONS && at + length < own.length; length++) {
        const away = excursion(own, at, length);
        const until = at + length;
        const errors = [at - 1, at, until].map((i) => series[measure][i]!.error);
        const error = Math.hypot(errors[1]!, 0.5 * errors[0]!, 0.5 * errors[2]!);
        const limit = Math.max(AWAY_ERRORS * error, AWAY_USUAL * usual, series[measure][at]!.least);
        if (!(Math.abs(away) > limit)) continue;
        if (!(Math.abs(own[until]! - own[at - 1]!) < BACK * Math.abs(away))) continue;
        // Of two sessions both are away, on the same side.
        if (length > 1 && !(excursion(own, at + 1, 1) * away > 0 && Math.abs(own[at + 1]! - own[at]!) < Math.abs(away)))
          continue;
        if (Math.abs(excursion(logPrice, at, length)) > MARKET_WITH * usualPrice) continue;
        // A skew grows with the level of vol.
        if (isWing(measure) && Math.abs(excursion(values.iv30, at, length)) > MARKET_WITH * usualLevel) continue;
        if (goWith(values, others, measure, at, length)) continue;
        found.push({
          ...{ at, sessions: length, measure, value: own[at]! },
          ...{ usual: own[at]! - away, errors: Math.abs(away) / error },
        });
        break;
      }
    }
  }
  return found.sort((a, b) => a.at - b.at);
}

/** What would move with a measure if the market had moved. */
function companions(measure: DoubtedMeasure): readonly DoubtedMeasure[] {
  if (measure === 'varianceIndex') return ['iv30'];
  if (measure === 'straddleRatio') return [];
  const group: readonly DoubtedMeasure[] = isWing(measure) ? WINGS : VOLS;
  return group.filter((one) => one !== measure);
}

/** Whether most of the others are away at the same time, in proportion. */
function goWith(
  values: Record<DoubtedMeasure, number[]>,
  others: readonly DoubtedMeasure[],
  measure: DoubtedMeasure,
  at: number,
  length: number,
): boolean {
  const isIndex = measure === 'varianceIndex';
  const shareOf = (name: DoubtedMeasure) =>
    excursion(values[name], at, length) / (isWing(measure) ? 1 : values[name][at]!);
  const own = shareOf(measure);
  const shares = others
    .map((name) => shareOf(name) / own)
    .filter(Number.isFinite)
    .sort((a, b) => a - b);
  if (shares.length === 0) return false;
  return (isIndex ? shares[0]! : shares[shares.length >> 1]!) > WITH;
}

import { orNull, rankOf, SESSIONS_PER_YEAR, termState } from '@umwelt/core';
import type { HeldColumns } from './held';
import { isoDay, isoMoment } from './days';
import type { HeldView } from './held-view';
import { USUAL_VOL } from './history';
import type { Underlying } from './terms';

/** What the Universe says of one underlying at a moment. Vols are decimals; null where not available. */
export interface UniverseRow extends Underlying {
  asof: string | null;
  price: number | null;
  /** Share of change from the close of the session before. */
  change: number | null;
  /** That close. */
  closeBefore: number | null;
  iv30: number | null;
  /** Yang–Zhang over 20 sessions, of the bars over at the moment. */
  hv20: number | null;
  ivToHv: number | null;
  rank: number | null;
  percentile: number | null;
  low: number | null;
  high: number | null;
  rankSessions: number | null;
  termSlope: number | null;
  termState: 'contango' | 'backwardation' | 'flat' | null;
  riskReversal25: number | null;
  frontExpiry: string | null;
  frontStraddleMove: number | null;
  frontDeviationMove: number | null;
  volume: number | null;
  openInterest: number | null;
  contracts: number | null;
  usable: number | null;
  /** 0…100. */
  quality: number | null;
}

const STORED = [
  'price',
  'iv30',
  'slope',
  'rr25',
  'move',
  'deviation',
  'volume',
  'oi',
  'contracts',
  'usable',
  'quality',
];

/**
 * Underlyings with their measures at their latest snapshot at or before a moment.
 *
 * @param symbol one of them alone
 */
export async function universeAt(held: HeldColumns, moment?: Date, symbol?: string): Promise<UniverseRow[]> {
  const view = await held.read([...STORED, 'before', 'front', USUAL_VOL], SESSIONS_PER_YEAR, {
    moment,
    isWanted: symbol === undefined ? undefined : (underlying) => underlying.symbol === symbol,
  });
  return view.underlyings.map((underlying, row) => universeRow(view, underlying, row));
}

function universeRow(view: HeldView, underlying: Underlying, row: number): UniverseRow {
  const value = (name: string) => orNull(view.value(name, row));
  const all = view.series('iv30', SESSIONS_PER_YEAR);
  const rank = rankOf(all, SESSIONS_PER_YEAR, SESSIONS_PER_YEAR * (row + 1));
  const termSlope = value('slope');
  const instant = view.instant(row);
  const front = view.frontDay(row);
  return {
    ...underlying,
    asof: Number.isNaN(instant) ? null : isoMoment(instant),
    price: value('price'),
    change: orNull(view.value('price', row) / view.value('before', row) - 1),
    closeBefore: value('before'),
    iv30: value('iv30'),
    hv20: value(USUAL_VOL),
    ivToHv: orNull(view.value('iv30', row) / view.value(USUAL_VOL, row)),
    rank: orNull(rank?.rank ?? NaN),
    percentile: orNull(rank?.percentile ?? NaN),
    low: rank?.low ?? null,
    high: rank?.high ?? null,
    rankSessions: rank?.sessions ?? null,
    termSlope,
    termState: termSlope === null ? null : termState(termSlope),
    riskReversal25: value('rr25'),
    frontExpiry: Number.isNaN(front) ? null : isoDay(front),
    frontStraddleMove: value('move'),
    frontDeviationMove: value('deviation'),
    volume: value('volume'),
    openInterest: value('oi'),
    contracts: value('contracts'),
    usable: value('usable'),
    quality: value('quality'),
  };
}

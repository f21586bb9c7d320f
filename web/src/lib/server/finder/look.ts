import {
  adjustedBars,
  calendarById,
  findCandidates,
  finderMarket,
  foundOf,
  type Adjustment,
  type BarColumns,
  type ExpiryId,
  type Found,
} from '@umwelt/core';
import type { Database } from '../db';
import { barsKnownAt, type Bar } from '../market/history';
import type { KnownMarket, Markets } from '../market/known-markets';
import { listAdjustments, listBars } from '../market/queries';
import type { FindTask, Skipped } from './work';

const YEAR_MS = 365 * 86_400_000;

/** Bars on the footing of the last of them. */
function columnsOf(bars: readonly Bar[], steps: readonly Adjustment[]): BarColumns {
  const column = (field: keyof BarColumns) => Float64Array.from(bars, (bar) => bar[field]);
  return adjustedBars(
    { open: column('open'), high: column('high'), low: column('low'), close: column('close') },
    bars.map(({ date }) => date),
    steps,
  );
}

/** What an expiry settled at since: the close of its day, of a morning series the open; NaN across a split. */
function settledBy(bars: readonly Bar[], steps: readonly Adjustment[], from: string) {
  const byDay = new Map(bars.map((bar) => [bar.date, bar]));
  return ({ expiry, settlement }: ExpiryId): number => {
    const isSplit = steps.some(({ kind, exDate }) => kind === 'split' && exDate > from && exDate <= expiry);
    const bar = expiry > from && !isSplit ? byDay.get(expiry) : undefined;
    return bar ? (settlement === 'am' ? bar.open : bar.close) : NaN;
  };
}

/** Why nothing can be found in a market; null where it can be looked through. */
function whyNot({ at }: KnownMarket, [from, to]: readonly [number, number]): string | null {
  const { slices } = at.market;
  const inside = slices.filter(({ fit }) => fit.days >= from && fit.days <= to);
  if (inside.length === 0) return `no expiry in ${Math.round(from)} … ${Math.round(to)} days`;
  return inside.some(({ fit }) => fit.curve) ? null : 'no curve';
}

/** Looks through an underlying at a moment, or says why nothing is found. */
export async function lookThrough(
  database: Database,
  markets: Markets,
  { symbol, moment, asked, own, isRecentred }: FindTask,
): Promise<Found | Skipped> {
  await markets.look();
  const asof = await markets.latest([symbol], moment === null ? null : new Date(moment));
  const known = asof === null ? null : await markets.market(symbol, asof);
  if (!known) return { symbol, why: 'no chain is held' };
  const why = whyNot(known, asked.days);
  if (why) return { symbol, why };
  const [bars, adjustments, listed] = await Promise.all([
    listBars(database, symbol),
    listAdjustments(database, [symbol]),
    markets.eventsOf(symbol),
  ]);
  const { underlying } = known;
  const steps = adjustments.get(symbol) ?? [];
  const count = barsKnownAt(bars, calendarById(underlying.calendar), known.asof);
  const past = columnsOf(bars.slice(0, count), steps);
  const { slices, around } = known.at.market;
  const announced = listed.events.map(({ start }) => (start.getTime() - known.asof) / YEAR_MS);
  const market = finderMarket({ slices, around, announced, bars: past, own, isRecentred });
  const found = findCandidates(market, { ...asked, fee: asked.fee / underlying.multiplier }, true);
  const { family, multiplier } = underlying;
  const on = { symbol, family, asof: known.asof, price: around.spot, multiplier };
  return foundOf(found, on, settledBy(bars, steps, new Date(known.asof).toISOString().slice(0, 10)));
}

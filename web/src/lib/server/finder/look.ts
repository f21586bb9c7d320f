import {
  calendarById,
  dayOf,
  findCandidates,
  finderMarket,
  foundOf,
  settledSince,
  yearsBetween,
  type Found,
} from '@umwelt/core';
import type { Database } from '../db';
import { adjusted, barsKnownAt, columnsOf } from '../market/history';
import type { KnownMarket, Markets } from '../market/known-markets';
import { listAdjustments, listBars } from '../market/queries';
import type { FindTask, Skipped } from './work';

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
  const calendar = calendarById(underlying.calendar);
  const past = columnsOf(adjusted(bars.slice(0, barsKnownAt(bars, calendar, known.asof)), steps));
  const { slices, around } = known.at.market;
  const announced = listed.events.map(({ start }) => yearsBetween(known.asof, start.getTime()));
  const market = finderMarket({ slices, around, announced, bars: past, own, isRecentred });
  const found = findCandidates(market, { ...asked, fee: asked.fee / underlying.multiplier }, true);
  const { family, multiplier } = underlying;
  const on = { symbol, family, asof: known.asof, price: around.spot, multiplier };
  const splits = steps.flatMap(({ kind, exDate }) => (kind === 'split' ? [exDate] : []));
  return foundOf(found, on, settledSince(bars, splits, dayOf(calendar, known.asof)));
}

import { SESSIONS_PER_YEAR } from '@umwelt/core';
import type { Market } from '$lib/state';

/** The last moments of the year of sessions before the one in view. */
export function sessionsBefore(
  market: Pick<Market, 'snapshots'> | null,
  { stops, index }: { readonly stops: readonly number[]; readonly index: number },
): string[] {
  if (!market) return [];
  const before = stops.slice(0, stops.findLastIndex((stop) => stop < index) + 1);
  return before.slice(-SESSIONS_PER_YEAR).map((stop) => market.snapshots[stop]!.asof);
}

import { SESSIONS_PER_YEAR } from '@umwelt/core';
import type { Workbench } from '$lib/state';

/** The last moments of the year of sessions before the one in view. */
export function sessionsBefore({ current, stops, index }: Pick<Workbench, 'current' | 'stops' | 'index'>): string[] {
  if (!current) return [];
  const before = stops.slice(0, stops.findLastIndex((stop) => stop < index) + 1);
  return before.slice(-SESSIONS_PER_YEAR).map((stop) => current.snapshots[stop]!.asof);
}

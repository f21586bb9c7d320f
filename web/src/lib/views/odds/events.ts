import { eventMove, stretchesOf, type Calendar, type ExpiryFit, expiriesApart } from '@umwelt/core';
import { announcedBefore, announcements, type Announced } from '$lib/data/events';
import type { MarketEvent } from '$lib/state';
import type { Summary } from '$lib/data';

/** An announcement ahead: what the expiries around it say that it moves the price by. */
export interface ComingEvent {
  title: string;
  kind: string;
  at: number;
  /** The last expiry before it and the first after it; null before the first. */
  before: string | null;
  after: string;
  /** One deviation of its own variance, a share of the price. */
  move: number;
  /** Vol of the stretch between them without it, and with it. */
  ambientVol: number;
  stretchVol: number;
  /** Time between the two expiries, years. */
  stretchYears: number;
  /** How many announcements share the stretch. */
  shared: number;
  /** Those of its kind before, the latest first. */
  past: Announced[];
}

const MS_PER_YEAR = 365 * 86_400_000;

/** Announcements ahead that an expiry lies after. */
export function comingMoves(
  events: readonly MarketEvent[],
  snapshots: readonly Summary[],
  calendar: Calendar,
  instant: number,
  fits: readonly ExpiryFit[],
): ComingEvent[] {
  const ahead = announcements(events, calendar)
    .filter(({ at }) => at > instant)
    .sort((a, b) => a.at - b.at);
  const used = expiriesApart(fits.filter(({ atmVol, years, expiryAside }) => atmVol > 0 && years > 0 && !expiryAside));
  const stretches = stretchesOf(
    used.map(({ years, atmVol }) => ({ years, variance: atmVol * atmVol * years })),
    ahead.map(({ at }) => (at - instant) / MS_PER_YEAR),
  );
  const before = announcedBefore(events, snapshots, calendar, instant, 7);
  return ahead.flatMap(({ title, kind, at }): ComingEvent[] => {
    const years = (at - instant) / MS_PER_YEAR;
    const i = stretches.findIndex((stretch) => years > stretch.from && years <= stretch.to);
    const stretch = stretches[i];
    if (!stretch) return [];
    return [
      {
        ...{ title, kind, at, before: used[i - 1]?.expiry ?? null, after: used[i]!.expiry },
        move: eventMove(stretch),
        ambientVol: Math.sqrt(stretch.ambient),
        stretchVol: Math.sqrt(stretch.variance / (stretch.to - stretch.from)),
        stretchYears: stretch.to - stretch.from,
        shared: stretch.events.length,
        past: before.filter((one) => one.kind === kind && one.title === title),
      },
    ];
  });
}

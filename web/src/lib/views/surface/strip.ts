import { figures } from '$lib/formats';
import type { Summary } from '$lib/data';

/** A measure that runs along while the past plays. */
export interface StripSeries {
  name: string;
  title: string;
  /** Theme variable. */
  color: string;
  read: (moment: Summary) => number;
  write: (value: number, decimals: number) => string;
}

export const STRIP_SERIES: readonly StripSeries[] = [
  {
    name: 'price',
    title: 'of the underlying',
    color: '--ink',
    read: ({ price }) => price ?? NaN,
    write: (value, decimals) => figures.fixed(value, decimals),
  },
  {
    name: 'iv30',
    title: '30-day vol at the money',
    color: '--implied',
    read: ({ iv30 }) => iv30 ?? NaN,
    write: (value) => figures.vol(value),
  },
  {
    name: 'RR 25',
    title: 'steepness: 25-delta call less put at 30 days, points',
    color: '--implied',
    read: ({ riskReversal25 }) => riskReversal25 ?? NaN,
    write: (value) => figures.volChange(value),
  },
  {
    name: 'term slope',
    title: '90-day less 30-day vol, points',
    color: '--implied',
    read: ({ termSlope }) => termSlope ?? NaN,
    write: (value) => figures.volChange(value),
  },
];

export type Standing = 'lowest' | 'highest' | 'within';

/** With fewer values nothing is an extreme. */
const FEWEST = 5;

/** Whether a value is the lowest or the highest of its series. */
export function standingOf(values: readonly number[], at: number): Standing {
  const now = values[at];
  const held = values.filter(Number.isFinite);
  if (now === undefined || !Number.isFinite(now) || held.length < FEWEST) return 'within';
  const [low, high] = [Math.min(...held), Math.max(...held)];
  if (low === high) return 'within';
  if (now === low) return 'lowest';
  return now === high ? 'highest' : 'within';
}

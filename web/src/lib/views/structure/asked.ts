import {
  DAYS_PER_YEAR,
  expiryName,
  FIRST_GREEKS,
  thirds,
  type Depth,
  type ExpiryId,
  type PlacedLeg,
  type Scenario,
} from '@umwelt/core';
import { MOST_DATES, type Quantity, type StructureParams } from './params';

/** An expiry of the legs. */
export interface LegExpiry extends ExpiryId {
  name: string;
  years: number;
}

/** Expiries of legs, in order of time. @param years to each of them */
export function expiriesOf(legs: readonly PlacedLeg[], years: readonly number[]): LegExpiry[] {
  const named = new Map(
    legs.map(({ expiry, settlement }, i): [string, LegExpiry] => {
      const name = expiryName({ expiry, settlement });
      return [name, { name, expiry, settlement, years: years[i]! }];
    }),
  );
  return [...named.values()].sort((a, b) => a.years - b.years);
}

/** The scenario of the address; its price is a move apart. @param elapsed years */
export function scenarioOf(
  params: StructureParams,
  elapsed: number,
  expiries: readonly LegExpiry[],
): Partial<Omit<Scenario, 'price'>> {
  const { volPoints, volScale, volShifts, skewPoints, ratePoints, dynamics, hasEvents } = params;
  return {
    elapsed,
    volShift: volPoints / 100,
    volScale,
    volShifts: new Map(expiries.map(({ name, years }) => [years, (volShifts[name] ?? 0) / 100])),
    skewShift: skewPoints / 100,
    rateShift: ratePoints / 100,
    dynamics,
    hasEvents,
  };
}

/**
 * Moments of the curves but for the scenario's: now, two dates between, the first expiry.
 *
 * @param own days to dates of one's own; those from the first expiry on are none, and thirds stand for what is missing
 */
export function datesOf(own: readonly number[], horizon: number): number[] {
  const usual = thirds(0, horizon);
  const wanted = own.map((days) => days / DAYS_PER_YEAR).filter((years) => years < horizon);
  // A curve's colour says which of them it is: there are two dates, always.
  const between = [...wanted, ...usual.slice(1, -1)].slice(0, MOST_DATES).sort((a, b) => a - b);
  return wanted.length > 0 ? [0, ...between, horizon] : usual;
}

/** Dates of the map. */
const MAP_DATES = 33;

/** Moments from now to the horizon, evenly. */
export function mapMoments(horizon: number): number[] {
  return Array.from({ length: MAP_DATES }, (_, i) => (horizon * i) / (MAP_DATES - 1));
}

/** How much has to be told for something to be drawn. */
export function depthOf(drawn: Quantity): Depth {
  if (drawn === 'profit') return 'values';
  return (FIRST_GREEKS as readonly string[]).includes(drawn) ? 'first' : 'second';
}

const DEPTHS: readonly Depth[] = ['values', 'first', 'second'];

/** Whether what is drawn is among what was told. */
export function isTold(drawn: Quantity, depth: Depth): boolean {
  return DEPTHS.indexOf(depth) >= DEPTHS.indexOf(depthOf(drawn));
}

/** Where Odds has some levels for its zones. @param query what the address says now */
export function oddsAddress(query: string, levels: readonly number[], decimals: number): string {
  const asked = new URLSearchParams(query);
  asked.set('left', 'zones');
  asked.set('zones', 'typed');
  asked.set('levels', levels.map((level) => level.toFixed(decimals)).join());
  return `/odds?${asked}`;
}

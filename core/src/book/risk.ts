import { expiryName, isUnderlying, type ContractId } from '../contracts';
import type { Mark } from './market';

/** Something held, with what one unit of it is worth and all that turns it into money of the book. */
export interface HeldLeg {
  readonly position: number;
  readonly contract: ContractId;
  /** Underlyings of one family are told in terms of each other. */
  readonly family: string;
  /** Signed: contracts, of the underlying its own units. */
  readonly quantity: number;
  /** Money of the book for one unit of price of one contract. */
  readonly money: number;
  /** Price of the underlying. */
  readonly price: number;
  /** Null where it is not known what it is worth. */
  readonly mark: Mark | null;
  /** Money of the book, of all of it; NaN where it is not known. */
  readonly value: number;
  /** Profit with what was closed of it and fees, since the close before, and since the ghost; NaN where that is not known. */
  readonly sinceEntry: number;
  readonly sinceClose: number;
  readonly sinceGhost: number;
}

/** In whose price moves are told: a unit of an underlying moves by `ratio` units of it. */
export interface Numeraire {
  readonly price: number;
  ratioOf(leg: HeldLeg): number;
}

/** Sums in money of the book. */
export interface RiskSums {
  value: number;
  /** S·Δ. */
  delta: number;
  /** For one per cent: S²Γ/100. */
  gamma: number;
  /** A point, and a point scaled by √(30/T). */
  vega: number;
  vegaRoot: number;
  /** A day. */
  theta: number;
  /** A percentage point. */
  rho: number;
  /** What delta in money changes by in a point, and in a day. */
  vanna: number;
  charm: number;
  /** What vega changes by in a point, and in a day. */
  volga: number;
  veta: number;
  sinceEntry: number;
  sinceClose: number;
  sinceGhost: number;
}

export const RISK_SUMS = [
  ...(['value', 'delta', 'gamma', 'vega', 'vegaRoot', 'theta', 'rho'] as const),
  ...(['vanna', 'charm', 'volga', 'veta', 'sinceEntry', 'sinceClose', 'sinceGhost'] as const),
] as const satisfies readonly (keyof RiskSums)[];

const MONTH_DAYS = 30;

/**
 * What a leg is worth and how it reacts, in money: × multiplier × quantity. Told in the price of another underlying, delta is × r
 * and gamma × r², with r how much a unit of its own moves for one of that.
 *
 * @returns Greeks of NaN where the leg has no mark
 */
export function riskOf(leg: HeldLeg, numeraire: Numeraire | null): RiskSums {
  const { mark, money, quantity, value, sinceEntry, sinceClose, sinceGhost } = leg;
  const units = money * quantity;
  // What was closed has no Greeks, whatever its contract is worth.
  const per = (greek: number | undefined) => (units === 0 ? 0 : units * (greek ?? NaN));
  // One per cent of the price in whose terms it is told, in units of its own.
  const moved = numeraire ? numeraire.price * numeraire.ratioOf(leg) : leg.price;
  const vega = per(mark?.vega);
  return {
    value,
    delta: moved * per(mark?.delta),
    gamma: (moved * moved * per(mark?.gamma)) / 100,
    vega,
    vegaRoot: mark && mark.days > 0 ? vega * Math.sqrt(MONTH_DAYS / mark.days) : vega,
    theta: per(mark?.theta),
    rho: per(mark?.rho),
    vanna: moved * per(mark?.vanna),
    charm: moved * per(mark?.charm),
    volga: per(mark?.volga),
    veta: per(mark?.veta),
    ...{ sinceEntry, sinceClose, sinceGhost },
  };
}

/** By what a book is taken apart. */
export const RISK_LEVELS = ['family', 'underlying', 'expiry', 'strike', 'position'] as const;
export type RiskLevel = (typeof RISK_LEVELS)[number];

/** A part of a book, with its own parts. */
export interface RiskNode {
  readonly level: RiskLevel | 'book';
  /** The same for the same part alone. */
  readonly key: string;
  /** As it is called among its like: a family, a symbol, the name of an expiry, a strike with its side. */
  readonly name: string;
  readonly sums: RiskSums;
  /** Legs of it whose worth is not known: they are part of no sum. */
  readonly missing: number;
  readonly legs: readonly HeldLeg[];
  readonly parts: readonly RiskNode[];
}

/** Where a leg belongs at a level; shares come before expiries, and those stand in order of time. */
function placeOf({ contract, family, position }: HeldLeg, level: RiskLevel): string {
  switch (level) {
    case 'family':
      return family;
    case 'underlying':
      return contract.symbol;
    case 'expiry':
      return isUnderlying(contract) ? '' : expiryName(contract);
    case 'strike':
      return isUnderlying(contract) ? '' : `${contract.strike} ${contract.side}`;
    case 'position':
      return String(position);
  }
}

/** Order of places: of strikes by number, of all else by text. */
function byPlace(level: RiskLevel): (a: string, b: string) => number {
  if (level !== 'strike' && level !== 'position') return (a, b) => (a < b ? -1 : Number(a > b));
  return (a, b) => parseFloat(a || '-1') - parseFloat(b || '-1') || (a < b ? -1 : 1);
}

/**
 * A book taken apart level by level. Each sum is that of its parts, added in the same order at every level.
 *
 * @param levels from the outside in
 * @param numeraire in whose price moves are told; null: each in that of its own underlying
 */
export function riskTree(
  legs: readonly HeldLeg[],
  levels: readonly RiskLevel[],
  numeraire: Numeraire | null,
): RiskNode {
  const risks = new Map(legs.map((leg) => [leg, riskOf(leg, numeraire)]));
  const nodeOf = (
    level: RiskNode['level'],
    key: string,
    name: string,
    of: readonly HeldLeg[],
    depth: number,
  ): RiskNode => {
    const next = levels[depth];
    const parts: RiskNode[] = [];
    if (next) {
      const groups = new Map<string, HeldLeg[]>();
      for (const leg of of) {
        const place = placeOf(leg, next);
        const there = groups.get(place);
        if (there) there.push(leg);
        else groups.set(place, [leg]);
      }
      const order = byPlace(next);
      for (const place of [...groups.keys()].sort(order))
        parts.push(nodeOf(next, `${key}/${place}`, place, groups.get(place)!, depth + 1));
    }
    const known = of.filter(({ mark, quantity, value }) => (mark !== null || quantity === 0) && Number.isFinite(value));
    const sums = parts.length > 0 ? added(parts.map((part) => part.sums)) : added(known.map((leg) => risks.get(leg)!));
    return { level, key, name, sums, missing: of.length - known.length, legs: of, parts };
  };
  return nodeOf('book', '', '', legs, 0);
}

/** Profits that are not known of a part are not known of the whole; all else is a sum. */
function added(parts: readonly RiskSums[]): RiskSums {
  const sums = Object.fromEntries(RISK_SUMS.map((name) => [name, 0])) as Record<keyof RiskSums, number>;
  for (const part of parts) for (const name of RISK_SUMS) sums[name] += part[name];
  return sums;
}

/** What limits can be set on, all in money of the book. */
export const LIMITED = ['worst', 'delta', 'gamma', 'vega', 'theta', 'share'] as const;
export type Limited = (typeof LIMITED)[number];

/** A limit: how much of a number may be reached. `share` is that of one underlying in the absolute delta in money. */
export interface Limit {
  readonly what: Limited;
  readonly most: number;
}

/** How much of a limit is used. */
export interface LimitUse extends Limit {
  readonly used: number;
}

/**
 * How much of each limit is used.
 *
 * @param book its sums
 * @param underlyings sums of each underlying
 * @param worst the loss of the worst cell of the scenarios, 0 or more; NaN where it is not known
 */
export function limitUses(
  limits: readonly Limit[],
  book: RiskSums,
  underlyings: readonly RiskSums[],
  worst: number,
): LimitUse[] {
  const all = underlyings.reduce((sum, { delta }) => sum + Math.abs(delta), 0);
  const largest = underlyings.reduce((most, { delta }) => Math.max(most, Math.abs(delta)), 0);
  const usedOf = (what: Limited): number => {
    if (what === 'worst') return worst;
    if (what === 'share') return all > 0 ? largest / all : 0;
    return Math.abs(book[what]);
  };
  return limits.map((limit) => ({ ...limit, used: usedOf(limit.what) }));
}

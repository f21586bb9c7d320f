import { sideOf, type ExpiryFit } from '../chain';
import type { Leg, OptionId, Side } from '../contracts';
import { rootBetween } from '../distributions';
import { lognormalUndiscounted } from '../models';
import { curveLaw } from '../odds';
import { logMoneynessAtDelta } from '../surface';
import type { ListedSlice } from './legs';

/** Structures of the trade. */
export const SHELF = [
  ...['call', 'put', 'call vertical', 'put vertical', 'straddle', 'strangle', 'risk reversal'],
  ...['butterfly', 'broken-wing butterfly', 'condor', 'iron butterfly', 'iron condor'],
  ...['calendar', 'double calendar', 'diagonal', 'ratio', 'backspread'],
  ...['covered call', 'protective put', 'collar', 'box', 'jelly roll'],
] as const;
export type ShelfName = (typeof SHELF)[number];

/** By what legs away from the money are placed. */
export const PLACINGS = ['delta', 'odds', 'deviations', 'width', 'strikes'] as const;
export type PlacingKind = (typeof PLACINGS)[number];

/**
 * How far legs are from the money: `delta` and `odds` to end beyond the strike in per cent, `deviations` of the expiry, `width` in per cent
 * of the forward, or listed `strikes`.
 */
export interface Placing {
  readonly by: PlacingKind;
  readonly near: number;
  readonly far: number;
}

/** Usual distances (common practice). */
export const USUAL_PLACINGS: Record<PlacingKind, Placing> = {
  delta: { by: 'delta', near: 25, far: 10 },
  odds: { by: 'odds', near: 25, far: 10 },
  deviations: { by: 'deviations', near: 1, far: 1.5 },
  width: { by: 'width', near: 4, far: 7 },
  strikes: { by: 'strikes', near: 3, far: 5 },
};

/** A leg by how far it is over the money: 0 at the forward, ±1 near it, ±2 far from it. */
interface ShelfLeg {
  readonly side: Side;
  readonly up: number;
  readonly quantity: number;
  /** In the expiry after the one that is chosen. */
  readonly isLater: boolean;
}

const leg = (side: Side, up: number, quantity: number, isLater = false): ShelfLeg => ({ side, up, quantity, isLater });

const LEGS: Record<ShelfName, readonly ShelfLeg[]> = {
  call: [leg('call', 0, 1)],
  put: [leg('put', 0, 1)],
  'call vertical': [leg('call', 0, 1), leg('call', 1, -1)],
  'put vertical': [leg('put', -1, -1), leg('put', -2, 1)],
  straddle: [leg('call', 0, 1), leg('put', 0, 1)],
  strangle: [leg('call', 1, 1), leg('put', -1, 1)],
  'risk reversal': [leg('call', 1, 1), leg('put', -1, -1)],
  butterfly: [leg('call', -1, 1), leg('call', 0, -2), leg('call', 1, 1)],
  'broken-wing butterfly': [leg('put', 0, 1), leg('put', -1, -2), leg('put', -2, 1)],
  condor: [leg('call', -2, 1), leg('call', -1, -1), leg('call', 1, -1), leg('call', 2, 1)],
  'iron butterfly': [leg('put', 0, -1), leg('put', -2, 1), leg('call', 0, -1), leg('call', 2, 1)],
  'iron condor': [leg('put', -1, -1), leg('put', -2, 1), leg('call', 1, -1), leg('call', 2, 1)],
  calendar: [leg('call', 0, -1), leg('call', 0, 1, true)],
  'double calendar': [
    ...[leg('put', -1, -1), leg('put', -1, 1, true)],
    ...[leg('call', 1, -1), leg('call', 1, 1, true)],
  ],
  diagonal: [leg('call', 1, -1), leg('call', 0, 1, true)],
  ratio: [leg('call', 0, 1), leg('call', 1, -2)],
  backspread: [leg('call', 0, -1), leg('call', 1, 2)],
  'covered call': [leg('call', 1, -1)],
  'protective put': [leg('put', -1, 1)],
  collar: [leg('put', -1, 1), leg('call', 1, -1)],
  box: [leg('call', -1, 1), leg('call', 1, -1), leg('put', 1, 1), leg('put', -1, -1)],
  'jelly roll': [leg('call', 0, -1), leg('put', 0, 1), leg('call', 0, 1, true), leg('put', 0, -1, true)],
};

/** Kinds that hold the underlying beside their legs. */
const HOLDING: readonly ShelfName[] = ['covered call', 'protective put', 'collar'];
/** Kinds whose wings are as far from their middle on either side. */
const SYMMETRIC: readonly ShelfName[] = ['butterfly', 'iron butterfly'];
/** Kinds whose legs at one distance stand on one strike, whatever their side and expiry. */
const SAME_STRIKES: readonly ShelfName[] = [
  'straddle',
  'calendar',
  'double calendar',
  'iron butterfly',
  'box',
  'jelly roll',
];

/** A structure that is placed: its legs, and the underlying beside them in contracts' worth. */
export interface ShelfPlaced {
  readonly legs: readonly Leg<OptionId>[];
  readonly held: number;
}

/** Positions of the strikes of a side that are quoted both ways. */
function quotedAt(slice: ListedSlice, side: Side): number[] {
  const { bid, ask } = sideOf(slice, side);
  return Array.from(slice.strike, (_, i) => i).filter((i) => bid[i]! > 0 && ask[i]! >= bid[i]!);
}

function nearest(slice: ListedSlice, at: readonly number[], level: number): number | undefined {
  const away = (i: number) => Math.abs(Math.log(slice.strike[i]! / level));
  return at.reduce<number | undefined>((best, i) => (best === undefined || away(i) < away(best) ? i : best), undefined);
}

const REACH = 8;

/** Log-moneyness beyond which the price ends with so much probability, by the curve's law; NaN where it cannot. */
function atOdds({ curve, atmVol, years }: ExpiryFit, isUp: boolean, odds: number): number {
  const law = curveLaw(curve!);
  const reach = REACH * atmVol * Math.sqrt(years);
  const over = (k: number) => law.under(k) - (isUp ? 1 - odds : odds);
  const [low, high] = [over(-reach), over(reach)];
  return low < 0 && high > 0 ? rootBetween(over, -reach, reach, low, high) : NaN;
}

/** Where a leg is meant to be. */
function levelOf(slice: ListedSlice, up: number, { by, near, far }: Placing): number {
  const { fit } = slice;
  const { forward } = fit;
  if (up === 0) return forward;
  const [size, sign] = [Math.abs(up) === 1 ? near : far, Math.sign(up)];
  switch (by) {
    case 'delta':
      return forward * Math.exp(logMoneynessAtDelta(fit.curve!, sign > 0 ? size / 100 : 1 - size / 100));
    case 'odds':
      return forward * Math.exp(atOdds(fit, sign > 0, size / 100));
    case 'deviations':
      return forward * Math.exp(sign * size * fit.atmVol * Math.sqrt(fit.years));
    case 'width':
      return forward * (1 + (sign * size) / 100);
    case 'strikes': {
      const all = Array.from(slice.strike, (_, i) => i);
      return slice.strike[nearest(slice, all, forward)! + sign * Math.round(size)] ?? NaN;
    }
  }
}

/**
 * Places a structure of the shelf on listed strikes, each the nearest to where it is meant to be that is quoted both ways; legs of
 * a side that would meet on a strike move apart.
 *
 * @param chosen position of the expiry; a calendar's later leg is in the next one that is not of the same day
 * @returns null where strikes, a curve or a later expiry are missing
 */
export function placeOnShelf(
  { symbol, slices }: { readonly symbol: string; readonly slices: readonly ListedSlice[] },
  name: ShelfName,
  chosen: number,
  placing: Placing = USUAL_PLACINGS.delta,
): ShelfPlaced | null {
  const first = slices[chosen];
  const later = slices.find(({ expiry, fit }) => first && fit.years > first.fit.years && expiry !== first.expiry);
  const isSame = SAME_STRIKES.includes(name);
  const legs: Leg<OptionId>[] = [];
  const strikes = new Map<number, number>();
  for (const { side, up, quantity, isLater } of LEGS[name]) {
    const slice = isLater ? later : first;
    if (!slice?.fit.curve || !(slice.fit.years > 0)) return null;
    const level = (isSame ? strikes.get(up) : undefined) ?? levelOf(isSame ? first! : slice, up, placing);
    const last = legs.findLastIndex((one) => one.side === side && !isLater && !isSame);
    const before = legs[last];
    const isOver = before !== undefined && up > LEGS[name][last]!.up;
    const free = quotedAt(slice, side).filter(
      (i) => !before || (isOver ? slice.strike[i]! > before.strike : slice.strike[i]! < before.strike),
    );
    const at = Number.isFinite(level) ? nearest(slice, free, level) : undefined;
    if (at === undefined) return null;
    const strike = slice.strike[at]!;
    if (isSame && strikes.has(up) && strikes.get(up) !== strike) return null;
    strikes.set(up, strike);
    const { expiry, settlement } = slice;
    legs.push({ symbol, expiry, settlement, strike, side, quantity });
  }
  const held = HOLDING.includes(name) ? 1 : 0;
  return { legs: SYMMETRIC.includes(name) && first ? evenWings(first, legs) : legs, held };
}

/** Moves the wings of a butterfly to where both are as far from its middle as the nearer one, where that is listed. */
function evenWings(slice: ListedSlice, legs: Leg<OptionId>[]): Leg<OptionId>[] {
  const middle = legs.find(({ quantity }) => quantity < 0)!.strike;
  const wings = legs.filter(({ quantity }) => quantity > 0);
  const width = Math.min(...wings.map(({ strike }) => Math.abs(strike - middle)));
  const moved = (leg: Leg<OptionId>) => middle + Math.sign(leg.strike - middle) * width;
  const isListed = wings.every((leg) => slice.strike.includes(moved(leg)));
  return isListed ? legs.map((leg) => (wings.includes(leg) ? { ...leg, strike: moved(leg) } : leg)) : legs;
}

const POINTS = 41;
const DEVIATIONS = 2.5;

/**
 * A sketch of what a structure gains at the first of its expiries, along the price in even steps over two and a half deviations: its
 * shape alone, with one vol for each expiry, in shares of so far a move.
 */
export function sketchOf({ legs, held }: ShelfPlaced, slices: readonly ListedSlice[]): number[] {
  const placed = legs.flatMap((one) => {
    const slice = slices.find(({ expiry, settlement }) => expiry === one.expiry && settlement === one.settlement);
    return slice ? [{ ...one, fit: slice.fit }] : [];
  });
  const [nearestLeg] = placed.toSorted((a, b) => a.fit.years - b.fit.years);
  if (!nearestLeg) return [];
  const { forward, years, atmVol } = nearestLeg.fit;
  const worth = (move: number, elapsed: number) =>
    placed.reduce(
      (sum, { side, strike, quantity, fit }) => {
        const sign = side === 'call' ? 1 : -1;
        const deviation = fit.atmVol * Math.sqrt(Math.max(0, fit.years - elapsed));
        const price = fit.forward * move;
        const inner = Math.max(0, sign * (price - strike));
        return sum + quantity * (deviation > 0 ? lognormalUndiscounted(sign, price, strike, deviation) : inner);
      },
      held * forward * move,
    );
  const now = worth(1, 0);
  const reach = DEVIATIONS * atmVol * Math.sqrt(years);
  const gain = (at: number) => worth(Math.exp(reach * at), years) - now;
  return Array.from({ length: POINTS }, (_, i) => gain((2 * i) / (POINTS - 1) - 1) / (forward * reach));
}

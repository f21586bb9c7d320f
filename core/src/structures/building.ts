import { expiryAt, type NamedLeg } from '../contracts';
import type { ListedSlice } from './legs';

/** Expiries that legs can stand in. */
type Listed = readonly ListedSlice[];

/** The listed strike nearest to a level. */
function nearestStrike({ strike }: ListedSlice, level: number): number {
  return strike.reduce((best, one) => (Math.abs(one - level) < Math.abs(best - level) ? one : best));
}

/** Legs with those of one contract taken together, where what comes to nothing goes. */
export function gathered(legs: readonly NamedLeg[]): NamedLeg[] {
  const found: NamedLeg[] = [];
  for (const leg of legs) {
    const at = found.findIndex(
      (one) =>
        one.symbol === leg.symbol &&
        one.expiry === leg.expiry &&
        (one.settlement ?? 'pm') === (leg.settlement ?? 'pm') &&
        one.strike === leg.strike &&
        one.side === leg.side,
    );
    if (at < 0) found.push(leg);
    else found[at] = { ...leg, quantity: found[at]!.quantity + leg.quantity };
  }
  return found.filter(({ quantity }) => quantity !== 0);
}

/** All legs so many listed strikes on; null where one of them would leave the list. */
export function alongStrikes(legs: readonly NamedLeg[], slices: Listed, by: number): NamedLeg[] | null {
  const moved: NamedLeg[] = [];
  for (const leg of legs) {
    const strikes = slices[expiryAt(slices, leg)]?.strike;
    const strike = strikes?.[strikes.indexOf(leg.strike) + by];
    if (!strikes?.includes(leg.strike) || strike === undefined) return null;
    moved.push({ ...leg, strike });
  }
  return moved;
}

/** All legs so far on in price, by as many listed strikes as the first of them goes; as far as all of them are listed. */
export function movedBy(legs: readonly NamedLeg[], slices: Listed, distance: number): NamedLeg[] | null {
  const [leg] = legs;
  const slice = leg && slices[expiryAt(slices, leg)];
  if (!slice) return null;
  const from = slice.strike.indexOf(leg.strike);
  let by = slice.strike.indexOf(nearestStrike(slice, leg.strike + distance)) - from;
  let moved = alongStrikes(legs, slices, by);
  while (!moved && by !== 0) moved = alongStrikes(legs, slices, (by -= Math.sign(by)));
  return moved;
}

/**
 * Legs in the expiry after theirs, or before it, on the listed strikes that are nearest to their own; null where there is no
 * such expiry, or two contracts would become one.
 *
 * @param at the leg that is rolled; all of them where none is named
 */
export function rolled(legs: readonly NamedLeg[], slices: Listed, by: 1 | -1, at?: number): NamedLeg[] | null {
  const moved: NamedLeg[] = [];
  for (const [i, leg] of legs.entries()) {
    if (at !== undefined && i !== at) {
      moved.push(leg);
      continue;
    }
    const from = slices[expiryAt(slices, leg)];
    const others = slices.filter((one) => from && by * (one.fit.years - from.fit.years) > 0);
    const next = by > 0 ? others[0] : others.at(-1);
    if (!next) return null;
    moved.push({
      ...leg,
      expiry: next.expiry,
      settlement: next.settlement,
      strike: nearestStrike(next, leg.strike),
    });
  }
  return gathered(moved).length === legs.length ? moved : null;
}

/** The strike that a structure is the same on both sides of; null where it is not. */
export function middleOf(legs: readonly NamedLeg[]): number | null {
  const strikes = legs.map(({ strike }) => strike);
  const middle = 0.5 * (Math.min(...strikes) + Math.max(...strikes));
  const quantityAt = (strike: number) => legs.reduce((sum, leg) => sum + (leg.strike === strike ? leg.quantity : 0), 0);
  const isOfOneExpiry = legs.every(({ expiry, settlement }) => {
    const [first] = legs;
    return expiry === first!.expiry && (settlement ?? 'pm') === (first!.settlement ?? 'pm');
  });
  const isSame = strikes.every((strike) => quantityAt(strike) === quantityAt(2 * middle - strike));
  return legs.length > 1 && isOfOneExpiry && isSame ? middle : null;
}

/**
 * Legs with one of them on another strike. What is the same on both sides stays so: its opposite moves as far the other way,
 * and with what stands in the middle all of it goes.
 *
 * @param level the strike, or what the nearest listed one is taken for
 * @param isAlone whether the leg goes without its opposite
 */
export function withStrike(
  legs: readonly NamedLeg[],
  slices: Listed,
  at: number,
  level: number,
  isAlone = false,
): NamedLeg[] {
  const leg = legs[at]!;
  const slice = slices[expiryAt(slices, leg)];
  if (!slice) return [...legs];
  const strike = nearestStrike(slice, level);
  const middle = isAlone ? null : middleOf(legs);
  if (middle === null) return gathered(legs.map((one, i) => (i === at ? { ...one, strike } : one)));
  const by = strike - leg.strike;
  const place = (one: NamedLeg) => {
    if (one.strike === leg.strike) return strike;
    if (leg.strike === middle) return nearestStrike(slice, one.strike + by);
    return one.strike === 2 * middle - leg.strike ? nearestStrike(slice, one.strike - by) : one.strike;
  };
  return gathered(legs.map((one) => ({ ...one, strike: place(one) })));
}

/** Legs with half of one of them on the next listed strike away from the money; null where it cannot be halved. */
export function split(legs: readonly NamedLeg[], slices: Listed, at: number): NamedLeg[] | null {
  const leg = legs[at]!;
  const strikes = slices[expiryAt(slices, leg)]?.strike;
  const strike = strikes?.[strikes.indexOf(leg.strike) + (leg.side === 'call' ? 1 : -1)];
  const half = Math.trunc(leg.quantity / 2);
  if (half === 0 || strike === undefined || !strikes?.includes(leg.strike)) return null;
  const parts = [
    { ...leg, quantity: leg.quantity - half },
    { ...leg, quantity: half, strike },
  ];
  return gathered(legs.flatMap((one, i) => (i === at ? parts : [one])));
}

/** Legs times a factor; null where a quantity would not be whole, or be more than `most`. */
export function scaled(legs: readonly NamedLeg[], factor: number, most: number): NamedLeg[] | null {
  const moved = legs.map((leg) => ({ ...leg, quantity: leg.quantity * factor }));
  return moved.every(({ quantity }) => Number.isInteger(quantity) && Math.abs(quantity) <= most) ? moved : null;
}

/**
 * Legs that are listed, each the nearest to one in hand: in its expiry or the one of the nearest day, on the nearest strike; null
 * without any expiry.
 */
export function nearestListed(legs: readonly NamedLeg[], slices: Listed): NamedLeg[] | null {
  const dayOf = ({ expiry }: { expiry: string }) => Date.parse(expiry);
  if (slices.length === 0) return null;
  return gathered(
    legs.map((leg) => {
      const away = (slice: ListedSlice) => Math.abs(dayOf(slice) - dayOf(leg));
      const slice =
        slices[expiryAt(slices, leg)] ?? slices.reduce((best, one) => (away(one) < away(best) ? one : best));
      const { expiry, settlement } = slice;
      return { ...leg, expiry, settlement, strike: nearestStrike(slice, leg.strike) };
    }),
  );
}

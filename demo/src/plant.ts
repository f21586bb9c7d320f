import {
  isSameExpiry,
  type ExpiryFit,
  type ExpiryId,
  type SideQuotes,
  type SliceQuotes,
  type Snapshot,
  type Side,
} from '@umwelt/core';

/** Kinds of faults that a feed may have. */
export const FAULT_KINDS = [
  'stale',
  'crossed',
  'zero-bid',
  'outlier',
  'shifted-expiry',
  'doubled-strike',
  'missing-side',
  'wide-market',
] as const;
export type FaultKind = (typeof FAULT_KINDS)[number];

/** A quote, or with no strike all of a side of an expiry. */
export interface PlantedFault extends ExpiryId {
  kind: FaultKind;
  /** NaN for a whole expiry. */
  strike: number;
  /** Sides whose quotes are not what they were. */
  sides: readonly Side[];
}

/** Where luck comes from: a number in [0, 1). */
export type Luck = () => number;

const copied = (quotes: SideQuotes): SideQuotes => ({
  ...quotes,
  bid: quotes.bid.slice(),
  ask: quotes.ask.slice(),
  volume: quotes.volume.slice(),
});

/** A snapshot whose quotes can be written over. */
export function copyOf(snapshot: Snapshot): Snapshot {
  const slices = snapshot.slices.map((slice) => ({ ...slice, call: copied(slice.call), put: copied(slice.put) }));
  return { ...snapshot, slices };
}

/** Within how many per cent of the price contracts are chosen: where a fault can do harm. */
const NEAR = 0.12;

/**
 * Plants one fault of a kind into a chain, at a contract near the money.
 *
 * @param chain is written over
 * @param before the chain of the session before, for quotes that stand still
 * @returns null where the chain has no place for it
 */
export function plant(kind: FaultKind, chain: Snapshot, before: Snapshot | null, luck: Luck): PlantedFault | null {
  const pick = <T>(among: readonly T[]): T | undefined => among[Math.floor(luck() * among.length)];
  const slice = pick(chain.slices.filter((one) => one.strike.length > 3));
  if (!slice) return null;
  const side = luck() < 0.5 ? 'call' : 'put';
  const { expiry, settlement, strike } = slice;
  const quotes = slice[side];
  const isGood = (own: SideQuotes, i: number) => own.bid[i]! > 0 && own.ask[i]! > own.bid[i]!;
  const at = pick(
    Array.from(strike.keys()).filter((i) => isGood(quotes, i) && Math.abs(strike[i]! / chain.price - 1) < NEAR),
  );
  if (at === undefined) return null;
  const fault = (sides: PlantedFault['sides'], level = strike[at]!) => ({
    kind,
    expiry,
    settlement,
    strike: level,
    sides,
  });
  const sign = luck() < 0.5 ? -1 : 1;
  switch (kind) {
    case 'stale': {
      const then = before?.slices.find((one) => isSameExpiry(one, slice));
      const i = then ? then.strike.indexOf(strike[at]!) : -1;
      if (!then || i < 0 || !isGood(then[side], i)) return null;
      quotes.bid[at] = then[side].bid[i]!;
      quotes.ask[at] = then[side].ask[i]!;
      quotes.volume[at] = 0;
      return fault([side]);
    }
    case 'crossed':
      [quotes.bid[at], quotes.ask[at]] = [quotes.ask[at]!, quotes.bid[at]!];
      return fault([side]);
    case 'zero-bid':
      quotes.bid[at] = 0;
      return fault([side]);
    case 'missing-side':
      quotes.bid[at] = quotes.ask[at] = NaN;
      return fault([side]);
    case 'outlier':
      shift(quotes, at, sign * chain.price * (0.005 + 0.03 * luck()));
      return isGood(quotes, at) ? fault([side]) : null;
    case 'wide-market': {
      const middle = 0.5 * (quotes.bid[at]! + quotes.ask[at]!);
      const half = (4 + 12 * luck()) * (quotes.ask[at]! - quotes.bid[at]!);
      // A wide market need not lie around the price.
      const off = half * (luck() - 0.5);
      quotes.bid[at] = Math.max(0, middle + off - half);
      quotes.ask[at] = middle + off + half;
      return fault([side]);
    }
    case 'doubled-strike': {
      const from = at > 0 ? at - 1 : at + 1;
      if (!isGood(slice.call, from) || !isGood(slice.put, from)) return null;
      for (const own of [slice.call, slice.put]) {
        own.bid[at] = own.bid[from]!;
        own.ask[at] = own.ask[from]!;
      }
      return fault(['call', 'put']);
    }
    case 'shifted-expiry': {
      // One side is quoted as if the price were another.
      const by = chain.price * (0.04 + 0.06 * luck());
      for (const i of strike.keys()) if (isGood(quotes, i)) shift(quotes, i, by);
      return fault([side], NaN);
    }
  }
}

function shift(quotes: SideQuotes, i: number, by: number): void {
  quotes.bid[i] = Math.max(0, quotes.bid[i]! + by);
  quotes.ask[i] = Math.max(0, quotes.ask[i]! + by);
}

/** The chain without the quotes of some faults: what is left of it where they are known. */
export function withoutFaults(clean: Snapshot, faults: readonly PlantedFault[]): Snapshot {
  const chain = copyOf(clean);
  const isWhole = (slice: SliceQuotes) => faults.some((one) => isSameExpiry(one, slice) && Number.isNaN(one.strike));
  const slices = chain.slices.filter((slice) => !isWhole(slice));
  for (const fault of faults) {
    const { strike, sides } = fault;
    const slice = slices.find((one) => isSameExpiry(one, fault));
    const at = slice ? slice.strike.indexOf(strike) : -1;
    if (slice && at >= 0) for (const side of sides) slice[side].bid[at] = slice[side].ask[at] = NaN;
  }
  return { ...chain, slices };
}

/** Whether a fault has been told: its contracts are not used, or its expiry is not. */
export function isFound(
  fault: PlantedFault,
  fits: readonly ExpiryFit[],
  isRefused: (fit: ExpiryFit, side: Side, strike: number) => boolean,
): boolean {
  const { strike, sides } = fault;
  const fit = fits.find((one) => isSameExpiry(one, fault));
  if (!fit || fit.expiryAside !== null) return true;
  return !Number.isNaN(strike) && sides.every((side) => isRefused(fit, side, strike));
}

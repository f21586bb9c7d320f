import type { FinderKind } from './kinds';

/** A contract as far as structures are made of it. */
export interface KindContract {
  readonly id: number;
  readonly strike: number;
  /** Whether it meets the limits on legs. */
  readonly isWithin: boolean;
}

/** The contracts of an expiry that take part, strikes ascending. */
export interface KindExpiry {
  readonly calls: readonly KindContract[];
  readonly puts: readonly KindContract[];
  /** Whether two strikes are as far apart as they may be. */
  readonly isWide: (lower: number, upper: number) => boolean;
}

/**
 * What takes what is made: contracts by their id with their quantities, strikes ascending; no more than four.
 *
 * @param held of the underlying, in contracts' worth
 */
export type Taker = (legs: readonly number[], quantities: readonly number[], held?: number) => void;

/** Widths that rounding of strikes makes differ are the same. */
const SAME = 1e-9;
const isEven = (a: number, b: number) => Math.abs(a - b) <= SAME * Math.max(a, b);

/** Wings of a side that is sold nearer to the money: the sold contract with the bought one that lies further out. */
interface Wing {
  readonly sold: KindContract;
  readonly bought: KindContract;
  readonly width: number;
}

/** All wings whose sold leg is within the limits. @param outwards 1 for calls, −1 for puts */
function wingsOf(side: readonly KindContract[], outwards: 1 | -1, isWide: KindExpiry['isWide']): Wing[] {
  const found: Wing[] = [];
  for (let i = 0; i < side.length; i++) {
    const sold = side[i]!;
    if (!sold.isWithin) continue;
    for (let j = i + outwards; j >= 0 && j < side.length; j += outwards) {
      const bought = side[j]!;
      const [lower, upper] = outwards > 0 ? [sold.strike, bought.strike] : [bought.strike, sold.strike];
      if (isWide(lower, upper)) found.push({ sold, bought, width: upper - lower });
    }
  }
  return found;
}

type Maker = (expiry: KindExpiry, take: Taker) => void;

const singles =
  (side: 'calls' | 'puts'): Maker =>
  (expiry, take) => {
    for (const { id, isWithin } of expiry[side]) {
      if (!isWithin) continue;
      take([id], [1]);
      take([id], [-1]);
    }
  };

/** Two strikes of a side: so many of the lower and of the upper one. The sold one is within the limits. */
const pairs =
  (side: 'calls' | 'puts', lowerQuantity: number, upperQuantity: number): Maker =>
  (expiry, take) => {
    const all = expiry[side];
    const quantities = [lowerQuantity, upperQuantity];
    for (let i = 0; i < all.length; i++)
      for (let j = i + 1; j < all.length; j++) {
        const [lower, upper] = [all[i]!, all[j]!];
        const sold = lowerQuantity < 0 ? lower : upper;
        if (sold.isWithin && expiry.isWide(lower.strike, upper.strike)) take([lower.id, upper.id], quantities);
      }
  };

/** A put under a call, each so often. What is sold is within the limits, or both where nothing is. */
const apart =
  (putQuantity: number, callQuantity: number, held = 0, hasWidth = true): Maker =>
  ({ calls, puts, isWide }, take) => {
    const isNoneSold = putQuantity > 0 && callQuantity > 0;
    const isHeldTo = (quantity: number) => quantity < 0 || isNoneSold;
    for (const put of puts) {
      if (isHeldTo(putQuantity) && !put.isWithin) continue;
      for (const call of calls) {
        if (call.strike <= put.strike || (isHeldTo(callQuantity) && !call.isWithin)) continue;
        if (hasWidth && !isWide(put.strike, call.strike)) continue;
        take([put.id, call.id], [putQuantity, callQuantity], held);
      }
    }
  };

const straddles: Maker = ({ calls, puts }, take) => {
  let at = 0;
  for (const put of puts) {
    while (at < calls.length && calls[at]!.strike < put.strike) at++;
    const call = calls[at];
    if (call?.strike !== put.strike || !put.isWithin || !call.isWithin) continue;
    take([put.id, call.id], [1, 1]);
    take([put.id, call.id], [-1, -1]);
  }
};

/** Butterflies of one side, with wings of one width or of two. */
const butterflies =
  (isEvenWanted: boolean): Maker =>
  ({ calls, puts, isWide }, take) => {
    for (const side of [calls, puts])
      for (let j = 1; j + 1 < side.length; j++) {
        const body = side[j]!;
        if (!body.isWithin) continue;
        for (let i = 0; i < j; i++) {
          const lower = side[i]!;
          if (!isWide(lower.strike, body.strike)) continue;
          for (let k = j + 1; k < side.length; k++) {
            const upper = side[k]!;
            if (!isWide(body.strike, upper.strike)) continue;
            if (isEven(body.strike - lower.strike, upper.strike - body.strike) !== isEvenWanted) continue;
            take([lower.id, body.id, upper.id], [1, -2, 1]);
          }
        }
      }
  };

/** Condors of one side: two sold strikes between two bought ones as far out. */
const condors: Maker = ({ calls, puts, isWide }, take) => {
  for (const side of [calls, puts])
    for (let j = 1; j + 2 < side.length; j++) {
      const inner = side[j]!;
      if (!inner.isWithin) continue;
      for (let k = j + 1; k + 1 < side.length; k++) {
        const outer = side[k]!;
        if (!outer.isWithin) continue;
        for (let i = 0; i < j; i++) {
          const width = inner.strike - side[i]!.strike;
          if (!isWide(side[i]!.strike, inner.strike)) continue;
          for (let l = k + 1; l < side.length; l++) {
            const wide = side[l]!.strike - outer.strike;
            if (isEven(width, wide) && isWide(outer.strike, side[l]!.strike))
              take([side[i]!.id, inner.id, outer.id, side[l]!.id], [1, -1, -1, 1]);
          }
        }
      }
    }
};

/**
 * Puts and calls that are sold with a bought one beyond each.
 *
 * @param isOne whether both are sold at one strike, or apart
 */
const irons =
  (isOne: boolean, isEvenWanted: boolean): Maker =>
  ({ calls, puts, isWide }, take) => {
    const over = wingsOf(calls, 1, isWide);
    for (const under of wingsOf(puts, -1, isWide))
      for (const wing of over) {
        const gap = wing.sold.strike - under.sold.strike;
        if (gap < 0 || (gap === 0) !== isOne || isEven(under.width, wing.width) !== isEvenWanted) continue;
        take([under.bought.id, under.sold.id, wing.sold.id, wing.bought.id], [1, -1, -1, 1]);
      }
  };

/** The underlying with a sold call. */
const covered: Maker = ({ calls }, take) => {
  for (const { id, isWithin } of calls) if (isWithin) take([id], [-1], 1);
};

const secured: Maker = ({ puts }, take) => {
  for (const { id, isWithin } of puts) if (isWithin) take([id], [-1]);
};

const all =
  (...makers: readonly Maker[]): Maker =>
  (expiry, take) => {
    for (const make of makers) make(expiry, take);
  };

/** How structures of one expiry are made, by kind. */
export const MAKERS: Readonly<Record<Exclude<FinderKind, 'calendar' | 'diagonal'>, Maker>> = {
  call: singles('calls'),
  put: singles('puts'),
  'vertical-credit': all(pairs('calls', -1, 1), pairs('puts', 1, -1)),
  'vertical-debit': all(pairs('calls', 1, -1), pairs('puts', -1, 1)),
  straddle: straddles,
  strangle: all(apart(1, 1), apart(-1, -1)),
  butterfly: butterflies(true),
  'broken-wing': all(butterflies(false), irons(true, false), irons(false, false)),
  condor: condors,
  'iron-condor': irons(false, true),
  'iron-butterfly': irons(true, true),
  ratio: all(pairs('calls', 1, -2), pairs('puts', -2, 1)),
  backspread: all(pairs('calls', -1, 2), pairs('puts', 2, -1)),
  'risk-reversal': all(apart(-1, 1), apart(1, -1)),
  'covered-call': covered,
  collar: apart(1, -1, 1),
  'secured-put': secured,
};

/** Kinds of two expiries: the near one is sold, the far one bought, of one side. */
export function makeAcross(
  kind: 'calendar' | 'diagonal',
  near: KindExpiry,
  far: KindExpiry,
  take: (near: number, far: number) => void,
): void {
  for (const side of ['calls', 'puts'] as const)
    for (const sold of near[side]) {
      if (!sold.isWithin) continue;
      for (const bought of far[side]) {
        const isSame = sold.strike === bought.strike;
        if (isSame !== (kind === 'calendar')) continue;
        const [lower, upper] =
          sold.strike < bought.strike ? [sold.strike, bought.strike] : [bought.strike, sold.strike];
        if (isSame || near.isWide(lower, upper)) take(sold.id, bought.id);
      }
    }
}

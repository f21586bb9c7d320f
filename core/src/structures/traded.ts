import { expiryName, type NamedLeg, type Side } from '../contracts';

/** A leg of a trade of several, as it was printed. */
export interface TradedLeg {
  /** Legs of one trade share it. */
  readonly group: string;
  /** Epoch milliseconds. */
  readonly time: number;
  readonly expiry: string;
  readonly settlement: 'am' | 'pm' | null;
  readonly strike: number;
  readonly side: Side;
  readonly price: number;
  readonly size: number;
  /** On the curve of its time; NaN where there was none. */
  readonly theory: number;
}

/** What trades of several legs are. */
export const TRADED_KINDS = [
  ...['vertical', 'straddle', 'strangle', 'risk reversal', 'synthetic', 'calendar', 'diagonal'],
  ...['butterfly', 'condor', 'iron condor', 'other'],
] as const;
export type TradedKind = (typeof TRADED_KINDS)[number];

/** The same structure, as often as it was traded. */
export interface TradedStructure {
  kind: TradedKind;
  /** The smallest whole quantities; the first leg that is bought or sold as most of its trades were. */
  legs: Omit<NamedLeg, 'symbol'>[];
  trades: number;
  /** Of it, over all trades. */
  size: number;
  /** When it was last traded. */
  last: number;
  /** Mean price by size, and theory at the time; positive where money is paid. */
  price: number;
  theory: number;
}

/** Legs with the sides that they must have been on: opposite ones within a spread, the same for a straddle. */
interface Signed extends TradedLeg {
  quantity: number;
}

const over = ({ price, theory }: TradedLeg) => (Number.isFinite(theory) ? price - theory : 0);

/** The largest whole number that all sizes are multiples of; 1 where sizes are not whole. */
function unitOf(sizes: readonly number[]): number {
  const divide = (a: number, b: number): number => (b === 0 ? a : divide(b, a % b));
  const unit = sizes.reduce(divide);
  return Number.isInteger(unit) && unit > 0 ? unit : 1;
}

/**
 * Which way each leg went, which no print says: what is paid over theory was bought, and of legs that are one spread (same side of
 * the market at other strikes or expiries) one is bought against the other.
 */
function signed(legs: readonly TradedLeg[]): Signed[] {
  const unit = unitOf(legs.map(({ size }) => size));
  const quantity = ({ size }: TradedLeg) => Math.round(size / unit);
  const calls = legs.filter(({ side }) => side === 'call');
  const puts = legs.filter(({ side }) => side === 'put');
  const sides = [calls, puts].filter(({ length }) => length > 0);
  if (legs.length === 2 && sides.length === 1) {
    const isFirst = over(legs[0]!) >= over(legs[1]!);
    return legs.map((leg, i) => ({ ...leg, quantity: (i === 0) === isFirst ? quantity(leg) : -quantity(leg) }));
  }
  if (legs.length === 2) {
    // A call and a put: together where they went the same way, against each other where they did not.
    const [one, other] = legs as [TradedLeg, TradedLeg];
    const isTogether = over(one) * over(other) >= 0;
    const sign = over(one) + (isTogether ? over(other) : -over(other)) >= 0 ? 1 : -1;
    return [
      { ...one, quantity: sign * quantity(one) },
      { ...other, quantity: (isTogether ? sign : -sign) * quantity(other) },
    ];
  }
  return legs.map((leg) => ({ ...leg, quantity: over(leg) >= 0 ? quantity(leg) : -quantity(leg) }));
}

/** Bodies are sold against wings: of three or four strikes in a row the middle ones go against the outer ones. */
function withWings(legs: readonly Signed[]): Signed[] {
  const outer = [legs[0]!, legs.at(-1)!];
  const sum = legs.reduce((total, leg) => total + (outer.includes(leg) ? over(leg) : -over(leg)), 0);
  const sign = sum >= 0 ? 1 : -1;
  return legs.map((leg) => ({ ...leg, quantity: Math.abs(leg.quantity) * (outer.includes(leg) ? sign : -sign) }));
}

function kindOf(legs: readonly Signed[]): { kind: TradedKind; legs: readonly Signed[] } {
  const expiries = new Set(legs.map(({ expiry, settlement }) => `${expiry} ${settlement ?? 'pm'}`)).size;
  const strikes = new Set(legs.map(({ strike }) => strike)).size;
  const sides = new Set(legs.map(({ side }) => side)).size;
  const [one, other] = legs as [Signed, Signed];
  if (legs.length === 2) {
    const isTogether = one.quantity * other.quantity > 0;
    if (expiries === 2) return { kind: sides === 2 ? 'other' : strikes === 1 ? 'calendar' : 'diagonal', legs };
    if (sides === 1) return { kind: 'vertical', legs };
    if (strikes === 1) return { kind: isTogether ? 'straddle' : 'synthetic', legs };
    return { kind: isTogether ? 'strangle' : 'risk reversal', legs };
  }
  const byStrike = legs.toSorted((a, b) => a.strike - b.strike);
  const isRow = expiries === 1 && strikes === legs.length;
  const isIron = byStrike.every(({ side }, i) => (i < legs.length / 2 ? side === 'put' : side === 'call'));
  if (isRow && legs.length === 3 && sides === 1) return { kind: 'butterfly', legs: withWings(byStrike) };
  if (isRow && legs.length === 4 && (sides === 1 || isIron))
    return { kind: sides === 1 ? 'condor' : 'iron condor', legs: withWings(byStrike) };
  return { kind: 'other', legs };
}

const ORDER = (a: TradedLeg, b: TradedLeg) =>
  a.expiry.localeCompare(b.expiry) || a.strike - b.strike || a.side.localeCompare(b.side);

/**
 * Trades of several legs as structures, the most traded first: those of the same legs and the same way are one. Prints do not say
 * which way a leg went; that is told from where it was against theory, and from what the legs are together.
 */
export function tradedStructures(prints: readonly TradedLeg[]): TradedStructure[] {
  const groups = new Map<string, TradedLeg[]>();
  for (const print of prints) {
    if (!print.group) continue;
    const found = groups.get(print.group);
    if (found) found.push(print);
    else groups.set(print.group, [print]);
  }
  const found = new Map<string, TradedStructure>();
  for (const group of groups.values()) {
    // A leg that is not in view says nothing.
    if (group.length < 2) continue;
    const unit = unitOf(group.map(({ size }) => size));
    const { kind, legs } = kindOf(signed(group.toSorted(ORDER)));
    const key = legs
      .map(
        (leg) =>
          `${leg.quantity} ${expiryName({ ...leg, settlement: leg.settlement ?? 'pm' })} ${leg.strike} ${leg.side}`,
      )
      .join(';');
    const sum = (of: (leg: Signed) => number) => legs.reduce((total, leg) => total + leg.quantity * of(leg), 0);
    const [price, theory] = [sum((leg) => leg.price), sum((leg) => leg.theory)];
    const last = Math.max(...group.map(({ time }) => time));
    const before = found.get(key);
    if (!before) {
      const named = legs.map(({ expiry, settlement, strike, side, quantity }) => ({
        ...{ expiry, settlement, strike, side, quantity },
      }));
      found.set(key, { kind, legs: named, trades: 1, size: unit, last, price, theory });
      continue;
    }
    const all = before.size + unit;
    const mean = (old: number, now: number) => (old * before.size + now * unit) / all;
    Object.assign(before, {
      ...{ trades: before.trades + 1, size: all, last: Math.max(before.last, last) },
      ...{ price: mean(before.price, price), theory: mean(before.theory, theory) },
    });
  }
  return [...found.values()].sort((a, b) => b.size - a.size || b.last - a.last);
}

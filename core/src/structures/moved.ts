import type { BasisChoice, ExpiryFit } from '../chain';
import type { Sample } from '../odds';
import type { ListedSlice, PlacedLeg } from './legs';
import { volsOfBasis } from './odds';
import { heldLeg, type PayoffLeg } from './payoff';
import { addColumns, makeColumns, namesAt, valuesAt, type Depth, type MovedColumns, type MovedValues } from './columns';
import { fillEarly } from './early-greeks';
import { fillHeld } from './held-greeks';
import { MovedExpiry } from './moved-expiry';
import { LEAST_YEARS, type MarketAround, type Scenario } from './scenario';

/** At what legs are entered: worst, mid, best, or so much of the half spread over the mid. */
export type Fill = 'worst' | 'mid' | 'best' | { readonly slippage: number };

/** A leg where it is listed, or the underlying in units of one contract's multiplier. */
export type MarketLeg = (PlacedLeg | { readonly underlying: true; readonly quantity: number }) & {
  /** As it was typed; by the fill unless given. */
  readonly entry?: number | undefined;
  /** Contracts that are traded, where its quantity counts something else; each has its fee. */
  readonly contracts?: number;
};

/** A structure on an underlying at a moment, per unit of it. */
export interface MarketStructure {
  readonly slices: readonly ListedSlice[];
  readonly around: MarketAround;
  readonly legs: readonly MarketLeg[];
  /** Implied vols of the legs at their mids, by their place; NaN where there is none. */
  readonly ownVols: readonly number[];
  readonly fill: Fill;
  /** Of each contract that is traded, for one unit of the underlying; it is part of every cost. */
  readonly fee?: number;
  readonly choice: BasisChoice;
  readonly scenario: Scenario;
  /** Past moves over a share of the sessions to an expiry, from a log-moneyness on; null where too few are held. */
  readonly past: (fit: ExpiryFit, share: number, start: number) => Sample | null;
  /** Where paths of the past are after some sessions, as `walkPaths` of the odds has them; without it the past has no path. */
  readonly walk?: (sessions: number, start: number) => Float64Array | null;
}

/** An option among the legs. */
export type OptionLeg = Extract<MarketLeg, PlacedLeg>;

export const isOption = (leg: MarketLeg): leg is OptionLeg => !('underlying' in leg);

const signOf = ({ side }: PlacedLeg) => (side === 'call' ? 1 : -1);

/** What a leg pays when it expires. */
export function payoffLegOf(leg: MarketLeg): PayoffLeg {
  const { quantity } = leg;
  return isOption(leg) ? { quantity, sign: signOf(leg), strike: leg.strike } : heldLeg(quantity);
}

/** Values of legs together. */
export function summed(legs: readonly MarketLeg[], values: readonly MovedValues[]): MovedValues {
  const sum = { ...NOTHING };
  legs.forEach(({ quantity }, i) => {
    for (const name of namesAt('second')) sum[name] += quantity * values[i]![name];
  });
  return sum;
}

/** What moves with nothing. */
const NOTHING: MovedValues = valuesAt(makeColumns(1), 0);

/**
 * Values and Greeks of a contract along the price, in a scenario.
 *
 * @param prices of the underlying, 0 or more
 * @param out results, overwritten
 */
export function fillContract(
  expiry: MovedExpiry,
  sign: number,
  strike: number,
  scenario: Scenario,
  prices: Float64Array,
  out: MovedColumns,
  depth: Depth,
): void {
  (expiry.isAmerican ? fillEarly : fillHeld)(expiry, sign, strike, scenario, prices, out, depth);
}

/** What a contract is worth in a scenario, and how it reacts. */
export function movedValues(expiry: MovedExpiry, sign: number, strike: number, scenario: Scenario): MovedValues {
  const out = makeColumns(1);
  fillContract(expiry, sign, strike, scenario, Float64Array.of(scenario.price), out, 'second');
  return valuesAt(out, 0);
}

/** A structure with its legs made ready to be moved. */
export class MovedStructure {
  private readonly expiries: readonly (MovedExpiry | null)[];
  private readonly options: readonly MovedExpiry[];

  constructor(private readonly structure: MarketStructure) {
    const { slices, legs, around, choice, ownVols } = structure;
    const shared = new Map<number, MovedExpiry>();
    this.expiries = legs.map((leg, i) => {
      if (!isOption(leg)) return null;
      const { fit } = slices[leg.slice]!;
      const made = () => new MovedExpiry(fit, around, volsOfBasis(fit, choice, ownVols[i]!));
      if (choice.basis === 'own') return made();
      const found = shared.get(leg.slice) ?? made();
      shared.set(leg.slice, found);
      return found;
    });
    this.options = this.expiries.filter((one) => one !== null);
  }

  /** What one unit of each leg is worth, and how it reacts. */
  ofLegs(scenario: Scenario): MovedValues[] {
    return this.structure.legs.map((leg, i) =>
      isOption(leg)
        ? movedValues(this.expiries[i]!, signOf(leg), leg.strike, scenario)
        : { ...NOTHING, value: scenario.price, delta: 1 },
    );
  }

  /** Vol of a leg; NaN of the underlying. */
  vol(at: number, scenario: Scenario): number {
    const leg = this.structure.legs[at]!;
    return isOption(leg) ? this.expiries[at]!.vol(leg.strike, scenario) : NaN;
  }

  /** What one unit of each leg is worth. */
  valuesOfLegs(scenario: Scenario): number[] {
    return this.structure.legs.map((leg, i) => this.valueOf(leg, i, scenario));
  }

  private valueOf(leg: MarketLeg, at: number, scenario: Scenario): number {
    return isOption(leg) ? this.expiries[at]!.value(signOf(leg), leg.strike, scenario) : scenario.price;
  }

  /** What all of it is worth. */
  value(scenario: Scenario): number {
    return this.structure.legs.reduce((sum, leg, i) => sum + leg.quantity * this.valueOf(leg, i, scenario), 0);
  }

  /** What all of it is worth along the price, and how it reacts. */
  along(scenario: Scenario, prices: Float64Array, depth: Depth): MovedColumns {
    const sum = makeColumns(prices.length);
    const one = makeColumns(prices.length);
    this.structure.legs.forEach((leg, i) => {
      if (isOption(leg)) {
        fillContract(this.expiries[i]!, signOf(leg), leg.strike, scenario, prices, one, depth);
        addColumns(sum, one, leg.quantity, depth);
        return;
      }
      prices.forEach((price, at) => {
        sum.value[at]! += leg.quantity * price;
        sum.delta[at]! += leg.quantity;
      });
    });
    return sum;
  }

  /** The first of its expiries that is still to come in a scenario; null where none is. */
  horizon(scenario: Scenario): MovedExpiry | null {
    const coming = this.options.filter((one) => one.left(scenario) > LEAST_YEARS);
    return coming.reduce<MovedExpiry | null>(
      (first, one) => (first && first.fit.years <= one.fit.years ? first : one),
      null,
    );
  }

  /** Whether all options have ended by a moment. */
  isOver(scenario: Scenario): boolean {
    return this.options.every((one) => one.left(scenario) <= LEAST_YEARS);
  }

  /** About a deviation of the price until the last of its expiries. */
  deviation(scenario: Scenario): number {
    return Math.max(0, ...this.options.map((one) => one.spread(scenario)).filter(Number.isFinite));
  }
}

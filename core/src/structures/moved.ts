import type { BasisChoice, ExpiryFit } from '../chain';
import type { Sample } from '../odds';
import type { ListedSlice, PlacedLeg } from './legs';
import { volsOfBasis } from './odds';
import { heldLeg, type PayoffLeg } from './payoff';
import { LEAST_YEARS, MovedExpiry, movedValues, type MarketAround, type MovedValues, type Scenario } from './scenario';

/** At what legs are entered: worst, mid, best, or so much of the half spread over the mid. */
export type Fill = 'worst' | 'mid' | 'best' | { readonly slippage: number };

/** A leg where it is listed, or the underlying in units of one contract's multiplier. */
export type MarketLeg = (PlacedLeg | { readonly underlying: true; readonly quantity: number }) & {
  /** As it was typed; by the fill unless given. */
  readonly entry?: number | undefined;
};

/** A structure on an underlying at a moment, per unit of it. */
export interface MarketStructure {
  readonly slices: readonly ListedSlice[];
  readonly around: MarketAround;
  readonly legs: readonly MarketLeg[];
  /** Implied vols of the legs at their mids, by their place; NaN where there is none. */
  readonly ownVols: readonly number[];
  readonly fill: Fill;
  readonly choice: BasisChoice;
  readonly scenario: Scenario;
  /** Past moves over a share of the sessions to an expiry, from a log-moneyness on; null where too few are held. */
  readonly past: (fit: ExpiryFit, share: number, start: number) => Sample | null;
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
  const sum: MovedValues = { value: 0, delta: 0, gamma: 0, theta: 0, vega: 0 };
  legs.forEach(({ quantity }, i) => {
    const { value, delta, gamma, theta, vega } = values[i]!;
    sum.value += quantity * value;
    sum.delta += quantity * delta;
    sum.gamma += quantity * gamma;
    sum.theta += quantity * theta;
    sum.vega += quantity * vega;
  });
  return sum;
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
        : { value: scenario.price, delta: 1, gamma: 0, theta: 0, vega: 0 },
    );
  }

  /** Vol of a leg; NaN of the underlying. */
  vol(at: number, scenario: Scenario): number {
    const leg = this.structure.legs[at]!;
    return isOption(leg) ? this.expiries[at]!.vol(leg.strike, scenario) : NaN;
  }

  /** What all of it is worth. */
  value(scenario: Scenario): number {
    return this.structure.legs.reduce((sum, leg, i) => {
      const one = isOption(leg) ? this.expiries[i]!.value(signOf(leg), leg.strike, scenario) : scenario.price;
      return sum + leg.quantity * one;
    }, 0);
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

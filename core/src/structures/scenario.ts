import type { ExpiryFit, WrittenOn } from '../chain';
import { normalInverse } from '../distributions';
import {
  americanExpiry,
  DAYS_PER_YEAR,
  earlyExercise,
  escrowOf,
  lognormalUndiscounted,
  type AmericanExpiry,
  type CashDividend,
} from '../models';
import type { Law } from '../odds';
import { levelledOff, logCumulative, logDensity, type VarianceAt } from '../surface';
import { expiredDelta } from './payoff';

/** How a shift of vol is meant: the same for all expiries, by √(30/T), or as a share of each vol. */
export const VOL_SCALES = ['parallel', 'root', 'percent'] as const;
export type VolScale = (typeof VOL_SCALES)[number];

/** What keeps its vol while the price moves: a strike, a moneyness ln(K/F), or so many deviations ln(K/F)/(σ_ATM√τ). */
export const DYNAMICS = ['strike', 'moneyness', 'delta'] as const;
export type Dynamics = (typeof DYNAMICS)[number];

/** What is thought to happen. */
export interface Scenario {
  /** Of the underlying. */
  readonly price: number;
  /** Years from the as-of. */
  readonly elapsed: number;
  /** Vols and rates are decimals. */
  readonly volShift: number;
  readonly volScale: VolScale;
  /** Added for single expiries, by their years. */
  readonly volShifts: ReadonlyMap<number, number>;
  /** Times what vols are after all shifts. */
  readonly volFactor: number;
  /** Of the 25-delta risk reversal. */
  readonly skewShift: number;
  readonly rateShift: number;
  readonly dynamics: Dynamics;
  /** Whether announcements take their variance with them. */
  readonly hasEvents: boolean;
}

/** A scenario in which nothing happens. */
export function unmoved(price: number): Scenario {
  return {
    ...{ price, elapsed: 0, volShift: 0, volScale: 'parallel', volShifts: new Map(), volFactor: 1 },
    ...{ skewShift: 0, rateShift: 0, dynamics: 'strike', hasEvents: true },
  };
}

/** An announcement to come, and the total variance that it carries. */
export interface EventVariance {
  readonly years: number;
  readonly variance: number;
}

/** What is known around an underlying, beside its expiries. */
export interface MarketAround {
  readonly on: WrittenOn;
  /** Price that the forwards are led to from. */
  readonly spot: number;
  /** Known cash dividends, by years from the as-of. */
  readonly dividends: readonly CashDividend[];
  readonly events: readonly EventVariance[];
}

/** Less time than a thousandth of a second is the expiry itself. */
export const LEAST_YEARS = 1e-11;
/** No shift takes a vol under this. */
const LEAST_VOL = 1e-3;
/** Deviations of a 25-delta strike, about. */
const WING = normalInverse(0.75);
const MONTH_DAYS = 30;
/** Early exercise is interpolated between these shares of the vol; further off each contract is solved by itself. */
const UNDER = 0.4;
const OVER = 2.5;
const VOLS = 8;
/** Between yields of this grid what early exercise is worth is a straight line, within 1e-6 of the price. */
const YIELD_STEP = 2e-3;

/** An expiry under scenarios: its forward, its vols, what its contracts are worth. */
export class MovedExpiry {
  /** Total variance at the forward, that of announcements in it, and what time alone carries of it a year. */
  private readonly variance: number;
  private readonly pending: number;
  private readonly ambient: number;
  private readonly dividends: readonly CashDividend[];
  private readonly carryYield: number;
  private readonly american = new Map<string, AmericanExpiry>();

  /** @param volAt vol by log-moneyness as it is now, of the basis in use */
  constructor(
    readonly fit: ExpiryFit,
    private readonly around: MarketAround,
    private readonly volAt: (k: number) => number,
  ) {
    const { years, forward, rate, atmVol } = fit;
    this.variance = atmVol * atmVol * years;
    this.pending = this.eventsAfter(0);
    this.ambient = (this.variance - this.pending) / years;
    const paid =
      around.on.kind === 'future' ? [] : around.dividends.filter((one) => one.years > 0 && one.years < years);
    const stripped = around.spot - escrowOf({ dividends: paid, years, rate })(0);
    this.dividends = stripped > 0 ? paid : [];
    this.carryYield = rate - Math.log(forward / (stripped > 0 ? stripped : around.spot)) / years;
  }

  /** Variance of the announcements between a moment and the expiry: no more than all of its variance. */
  private eventsAfter(elapsed: number): number {
    const sum = (from: number) =>
      this.around.events.reduce(
        (total, { years, variance }) => total + (years > from && years <= this.fit.years ? variance : 0),
        0,
      );
    const all = sum(0);
    return all > this.variance ? (sum(elapsed) * this.variance) / all : sum(elapsed);
  }

  /** Time that is left. */
  left({ elapsed }: Scenario): number {
    return this.fit.years - elapsed;
  }

  rate({ rateShift }: Scenario): number {
    return this.fit.rate + rateShift;
  }

  /** The forward: the price without the dividends that are still to come, grown at the carry that holds now. */
  forward(scenario: Scenario): number {
    const { price, elapsed } = scenario;
    const { years, forward } = this.fit;
    if (this.around.on.kind === 'future') return (price * forward) / this.around.spot;
    const rate = this.rate(scenario);
    let owed = 0;
    for (const { years: at, amount } of this.dividends)
      if (at > elapsed) owed += amount * Math.exp(-rate * (at - elapsed));
    return Math.max(price - owed, 0) * Math.exp((rate - this.carryYield) * (years - elapsed));
  }

  /** By how much the variance that is left differs from what evenly passing time would have left. */
  private eventRatio({ elapsed, hasEvents }: Scenario): number {
    const { years } = this.fit;
    // Without a vol there is nothing to share.
    if (!hasEvents || !(this.pending > 0)) return 1;
    const left = years - elapsed;
    return (this.ambient * left + this.eventsAfter(elapsed)) / ((this.variance * left) / years);
  }

  /** Vol of a strike. */
  vol(strike: number, scenario: Scenario): number {
    const { fit } = this;
    const { elapsed, dynamics, volShift, volScale, volShifts, volFactor, skewShift } = scenario;
    const left = fit.years - elapsed;
    const now = Math.log(strike / fit.forward);
    const there = Math.log(strike / this.forward(scenario));
    const k = dynamics === 'strike' ? now : dynamics === 'moneyness' ? there : there * Math.sqrt(fit.years / left);
    const base = this.volAt(k) * Math.sqrt(this.eventRatio(scenario));
    const scale =
      volScale === 'percent' ? base : volScale === 'root' ? Math.sqrt(MONTH_DAYS / (DAYS_PER_YEAR * fit.years)) : 1;
    const lean =
      skewShift === 0
        ? 0
        : (0.5 * skewShift * levelledOff(k / (fit.atmVol * Math.sqrt(fit.years)))) / levelledOff(WING);
    const vol = volFactor * (base + volShift * scale + (volShifts.get(fit.years) ?? 0) + lean);
    // NaN where the basis has none.
    return vol < LEAST_VOL ? LEAST_VOL : vol;
  }

  /** What a contract is worth; when it expires what it pays. */
  value(sign: number, strike: number, scenario: Scenario): number {
    const left = this.left(scenario);
    const { price } = scenario;
    if (!(left > LEAST_YEARS)) return Math.max(0, sign * (price - strike));
    const rate = this.rate(scenario);
    const forward = this.forward(scenario);
    const discount = Math.exp(-rate * left);
    if (!(forward > 0)) return sign > 0 ? 0 : discount * strike;
    const vol = this.vol(strike, scenario);
    const { on } = this.around;
    if (on.exercise === 'american') {
      const spot = on.kind === 'future' ? forward : price;
      const carryYield = rate - Math.log(forward / spot) / left;
      if (earlyExercise(sign, rate, carryYield, left) !== 'never')
        return this.early(sign, strike, spot, vol, { rate, carryYield, left });
    }
    return discount * lognormalUndiscounted(sign, forward, strike, vol * Math.sqrt(left));
  }

  /**
   * An American contract. Boundaries do not depend on the price, so contracts are scaled to one. Cash dividends make the yield
   * another one at each price: what early exercise is worth is interpolated between the yields of a grid then.
   */
  private early(
    sign: number,
    strike: number,
    spot: number,
    vol: number,
    { rate, carryYield, left }: { rate: number; carryYield: number; left: number },
  ): number {
    if (this.dividends.length === 0) {
      return spot * this.americanAt(rate, carryYield, left, vol).price(sign, strike / spot, vol);
    }
    const discount = Math.exp(-rate * left);
    const deviation = vol * Math.sqrt(left);
    const european = (yielded: number) =>
      discount * lognormalUndiscounted(sign, spot * Math.exp((rate - yielded) * left), strike, deviation);
    const premium = (yielded: number) =>
      spot * this.americanAt(rate, yielded, left, vol).price(sign, strike / spot, vol) - european(yielded);
    const cell = Math.floor(carryYield / YIELD_STEP);
    const share = carryYield / YIELD_STEP - cell;
    return european(carryYield) + (1 - share) * premium(cell * YIELD_STEP) + share * premium((cell + 1) * YIELD_STEP);
  }

  private americanAt(rate: number, carryYield: number, left: number, vol: number): AmericanExpiry {
    const key = `${rate} ${carryYield} ${left}`;
    const found = this.american.get(key);
    if (found) return found;
    const { atmVol } = this.fit;
    const middle = atmVol > 0 ? atmVol : vol;
    const made = americanExpiry({ spot: 1, years: left, rate, yield: carryYield }, UNDER * middle, OVER * middle, VOLS);
    this.american.set(key, made);
    return made;
  }

  /** About one deviation of what is left. */
  spread(scenario: Scenario): number {
    return this.vol(this.forward(scenario), scenario) * Math.sqrt(Math.max(0, this.left(scenario)));
  }

  /** The law of its vols at a scenario: the slope and the curvature of total variance count (Breeden and Litzenberger 1978). */
  law(scenario: Scenario): Law {
    const forward = this.forward(scenario);
    const left = this.left(scenario);
    const step = SLOPE_STEP * this.spread(scenario);
    const variance = (k: number) => this.vol(forward * Math.exp(k), scenario) ** 2 * left;
    const at = (k: number): VarianceAt => {
      const [before, w, after] = [variance(k - step), variance(k), variance(k + step)];
      return { w, slope: (after - before) / (2 * step), curvature: (after - 2 * w + before) / (step * step) };
    };
    return {
      under: (k) => (Number.isFinite(k) ? logCumulative(at(k), k) : Number(k > 0)),
      density: (k) => Math.max(0, logDensity(at(k), k)),
    };
  }
}

/** Share of a deviation over which slopes are taken. */
const SLOPE_STEP = 1e-3;

/** What a contract is worth and how that reacts, along the dynamics of its scenario. */
export interface MovedValues {
  value: number;
  delta: number;
  gamma: number;
  /** Per calendar day. */
  theta: number;
  /** Per vol point. */
  vega: number;
}

/** Of the price, as a share of a deviation: with four neighbours what is left goes with its fourth power. */
const PRICE_STEP = 0.03;
const VOL_STEP = 1e-4;
const TIME_SHARE = 1e-3;

/** Greeks of a contract by differences of its value, total along the dynamics: the vol moves with the price as it says. */
export function movedValues(expiry: MovedExpiry, sign: number, strike: number, scenario: Scenario): MovedValues {
  const at = (change: Partial<Scenario>) => expiry.value(sign, strike, { ...scenario, ...change });
  const value = at({});
  const { price, elapsed } = scenario;
  const left = expiry.left(scenario);
  if (!(left > LEAST_YEARS)) {
    return { value, delta: expiredDelta(sign, strike, price), gamma: 0, theta: 0, vega: 0 };
  }
  const step = price * Math.min(PRICE_STEP, PRICE_STEP * expiry.spread(scenario));
  const [lower2, lower, higher, higher2] = [-2, -1, 1, 2].map((n) => at({ price: price + n * step })) as [
    number,
    number,
    number,
    number,
  ];
  const moment = TIME_SHARE * left;
  const [before, after] = [at({ elapsed: elapsed - moment }), at({ elapsed: elapsed + moment })];
  // A point for every strike of the expiry, however the shift of the scenario is scaled.
  const { years } = expiry.fit;
  const shifted = (by: number) =>
    at({ volShifts: new Map(scenario.volShifts).set(years, (scenario.volShifts.get(years) ?? 0) + by) });
  return {
    value,
    delta: (8 * (higher - lower) - (higher2 - lower2)) / (12 * step),
    gamma: (16 * (higher + lower) - (higher2 + lower2) - 30 * value) / (12 * step * step),
    theta: (after - before) / (2 * moment * DAYS_PER_YEAR),
    vega: ((shifted(VOL_STEP) - shifted(-VOL_STEP)) / (2 * VOL_STEP)) * 0.01,
  };
}

import type { ExpiryFit } from '../chain';
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
import { LEAST_YEARS, type Dynamics, type MarketAround, type Scenario } from './scenario';

/** No shift takes a vol under this. */
const LEAST_VOL = 1e-3;
/** Deviations of a 25-delta strike, about. */
const WING = normalInverse(0.75);
const MONTH_DAYS = 30;
/** Early exercise is interpolated between these shares of the vol; further off each contract is solved by itself. */
const UNDER = 0.4;
const OVER = 2.5;
const VOLS = 8;
/** Between yields of this grid what early exercise is worth is a straight line, within 1e-5 of the price. */
const YIELD_STEP = 8e-4;
/** What rounding leaves of a difference. */
const ROUNDING = 1e-13;

/** What holds at a moment of a scenario whatever the price; by time and by rate: how it changes in a year, and by a rate of one. */
export interface Moment extends Pick<Scenario, 'elapsed' | 'rateShift' | 'hasEvents'> {
  readonly left: number;
  readonly rate: number;
  readonly discount: number;
  /** The forward is (price − owed) · growth: cash dividends that are still to come, at what they are worth then. */
  readonly owed: number;
  readonly owedByRate: number;
  readonly growth: number;
  /** Carry a year; none of a future. */
  readonly drift: number;
  /** Of the logarithm of the growth. */
  readonly growthByRate: number;
  /** Times which vols stand because announcements take their variance with them. */
  readonly eventScale: number;
  readonly eventSlope: number;
}

/** An expiry under scenarios: its forward, its vols, what its contracts are worth. */
export class MovedExpiry {
  /** Total variance at the forward, that of announcements in it, and what time alone carries of it a year. */
  private readonly variance: number;
  private readonly pending: number;
  private readonly ambient: number;
  private readonly dividends: readonly CashDividend[];
  private readonly carryYield: number;
  private readonly american = new Map<string, AmericanExpiry>();
  private readonly lastAmerican: AmericanExpiry[] = [];
  private last: Moment | null = null;

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

  /** What holds at the moment of a scenario whatever the price; kept, as many prices follow each other. */
  moment({ elapsed, rateShift, hasEvents }: Scenario): Moment {
    const { last } = this;
    if (last?.elapsed === elapsed && last.rateShift === rateShift && last.hasEvents === hasEvents) return last;
    const { years, forward, rate: rateNow } = this.fit;
    const left = years - elapsed;
    const rate = rateNow + rateShift;
    const [eventScale, eventSlope] = hasEvents ? this.eventScale(left, elapsed) : [1, 0];
    const given = { elapsed, rateShift, hasEvents, left, rate, discount: Math.exp(-rate * left) };
    const events = { eventScale, eventSlope };
    if (this.around.on.kind === 'future') {
      const growth = forward / this.around.spot;
      return (this.last = { ...given, ...events, owed: 0, owedByRate: 0, growth, drift: 0, growthByRate: 0 });
    }
    let [owed, owedByRate] = [0, 0];
    for (const { years: at, amount } of this.dividends) {
      if (at <= elapsed) continue;
      const present = amount * Math.exp(-rate * (at - elapsed));
      owed += present;
      owedByRate -= (at - elapsed) * present;
    }
    const drift = rate - this.carryYield;
    return (this.last = {
      ...{ ...given, ...events, owed, owedByRate, growth: Math.exp(drift * left), drift, growthByRate: left },
    });
  }

  /** The forward: the price without the dividends that are still to come, grown at the carry that holds now. */
  forward(scenario: Scenario): number {
    const { owed, growth } = this.moment(scenario);
    return Math.max(scenario.price - owed, 0) * growth;
  }

  /**
   * By how much the vol of what is left differs from what evenly passing time would have left, and how that changes in a year
   * that passes.
   */
  private eventScale(left: number, elapsed: number): readonly [number, number] {
    // Without a vol there is nothing to share.
    if (!(this.pending > 0)) return [1, 0];
    const share = this.fit.years / this.variance;
    const ahead = this.eventsAfter(elapsed);
    const scale = Math.sqrt(share * (this.ambient + ahead / left));
    return [scale, (0.5 * share * ahead) / (left * left * scale)];
  }

  /** Log-moneyness at which the vol of a strike is read. */
  moneyness(strike: number, forward: number, { left }: Moment, dynamics: Dynamics): number {
    if (dynamics === 'strike') return Math.log(strike / this.fit.forward);
    const there = Math.log(strike / forward);
    return dynamics === 'moneyness' ? there : there * Math.sqrt(this.fit.years / left);
  }

  /** Vol of what is read at a log-moneyness; NaN where the basis has none. */
  volAlong(k: number, { eventScale }: Moment, scenario: Scenario): number {
    const { fit } = this;
    const { volShift, volScale, volShifts, volFactor, skewShift } = scenario;
    const base = this.volAt(k) * eventScale;
    const scale =
      volScale === 'percent' ? base : volScale === 'root' ? Math.sqrt(MONTH_DAYS / (DAYS_PER_YEAR * fit.years)) : 1;
    const lean =
      skewShift === 0
        ? 0
        : (0.5 * skewShift * levelledOff(k / (fit.atmVol * Math.sqrt(fit.years)))) / levelledOff(WING);
    const vol = volFactor * (base + volShift * scale + (volShifts.get(fit.years) ?? 0) + lean);
    return vol < LEAST_VOL ? LEAST_VOL : vol;
  }

  /** By how much {@link volAlong} changes with its event scale. */
  volByEvents(k: number, { volShift, volScale, volFactor }: Scenario): number {
    return volFactor * this.volAt(k) * (volScale === 'percent' ? 1 + volShift : 1);
  }

  /** Vol of a strike. */
  vol(strike: number, scenario: Scenario): number {
    const moment = this.moment(scenario);
    const forward = this.forward(scenario);
    return this.volAlong(this.moneyness(strike, forward, moment, scenario.dynamics), moment, scenario);
  }

  /**
   * What a contract is worth; when it expires what it pays.
   *
   * @param isSmooth what early exercise is worth where dividends make the yield another one at each price: solved for each, so
   *   that it can be derived, at some ten times the work
   */
  value(sign: number, strike: number, scenario: Scenario, isSmooth = false): number {
    const moment = this.moment(scenario);
    const { left } = moment;
    const intrinsic = Math.max(0, sign * (scenario.price - strike));
    if (!(left > LEAST_YEARS)) return intrinsic;
    const forward = this.forward(scenario);
    const isAmerican = this.around.on.exercise === 'american';
    if (!(forward > 0)) {
      const held = sign > 0 ? 0 : moment.discount * strike;
      return isAmerican ? Math.max(held, intrinsic) : held;
    }
    const vol = this.volAlong(this.moneyness(strike, forward, moment, scenario.dynamics), moment, scenario);
    if (isAmerican) {
      const spot = this.exercised(scenario);
      // Without known cash it is the same at each price: told so, rounding makes no boundaries of its own.
      const carryYield =
        this.dividends.length === 0 ? moment.rate - moment.drift : moment.rate - Math.log(forward / spot) / left;
      if (earlyExercise(sign, moment.rate, carryYield, left) !== 'never')
        return this.early(sign, strike, spot, vol, carryYield, moment, isSmooth);
    }
    return moment.discount * lognormalUndiscounted(sign, forward, strike, vol * Math.sqrt(left));
  }

  /** The price that an American contract is exercised at: the spot, or of a future the forward, as its options have it. */
  exercised(scenario: Scenario): number {
    return this.around.on.kind === 'future' ? this.forward(scenario) : scenario.price;
  }

  /** Whether a contract may be exercised early. */
  get isAmerican(): boolean {
    return this.around.on.exercise === 'american';
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
    carryYield: number,
    { rate, left, discount }: Moment,
    isSmooth: boolean,
  ): number {
    if (this.dividends.length === 0) {
      return spot * this.americanAt(rate, carryYield, left, vol).price(sign, strike / spot, vol);
    }
    if (isSmooth) {
      const terms = { spot: 1, years: left, rate, yield: carryYield };
      return spot * americanExpiry(terms, Infinity, Infinity).price(sign, strike / spot, vol);
    }
    const deviation = vol * Math.sqrt(left);
    const european = (yielded: number) =>
      discount * lognormalUndiscounted(sign, spot * Math.exp((rate - yielded) * left), strike, deviation);
    const american = (yielded: number) =>
      spot * this.americanAt(rate, yielded, left, vol).price(sign, strike / spot, vol);
    const cell = Math.floor(carryYield / YIELD_STEP);
    const [lower, upper] = [cell * YIELD_STEP, (cell + 1) * YIELD_STEP];
    const [under, over] = [american(lower), american(upper)];
    const intrinsic = sign * (spot - strike);
    // Worth exercising on both sides is worth exercising between them.
    if (intrinsic > 0 && Math.max(under, over) <= intrinsic * (1 + ROUNDING)) return intrinsic;
    const share = carryYield / YIELD_STEP - cell;
    return european(carryYield) + (1 - share) * (under - european(lower)) + share * (over - european(upper));
  }

  private americanAt(rate: number, carryYield: number, left: number, vol: number): AmericanExpiry {
    // Many prices of few terms follow each other: the last two are found without a key.
    for (const one of this.lastAmerican) {
      const { terms } = one;
      if (terms.yield === carryYield && terms.years === left && terms.rate === rate) return one;
    }
    const key = `${rate} ${carryYield} ${left}`;
    const found = this.american.get(key);
    if (found) return this.keepLast(found);
    const { atmVol } = this.fit;
    const middle = atmVol > 0 ? atmVol : vol;
    const made = americanExpiry({ spot: 1, years: left, rate, yield: carryYield }, UNDER * middle, OVER * middle, VOLS);
    this.american.set(key, made);
    return this.keepLast(made);
  }

  private keepLast(one: AmericanExpiry): AmericanExpiry {
    if (this.lastAmerican.length > 1) this.lastAmerican.shift();
    this.lastAmerican.push(one);
    return one;
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

import { exp, INV_SQRT_2PI, log, scaledTail } from '../distributions';
import { DAYS_PER_YEAR, lognormalUndiscounted } from '../models';
import type { Depth, MovedColumns } from './columns';
import type { Moment, MovedExpiry } from './moved-expiry';
import { expiredDelta } from './payoff';
import { LEAST_YEARS, type Scenario } from './scenario';

/** A price under this share of its larger term is had without taking a difference. */
const LOST = 1e-3;
const POINT = 0.01;
const DAY = 1 / DAYS_PER_YEAR;

/** Vol of a strike at a price, and how it changes as the price and time move. */
interface VolThere {
  vol: number;
  /** By the price, once and twice. */
  byPrice: number;
  byPriceTwice: number;
  /** By time alone, and by time and price. */
  byTime: number;
  byTimeAndPrice: number;
  byRate: number;
}

/**
 * Values and Greeks of a contract that is held to its expiry, along the price, in closed form (F. Black, "The pricing of
 * commodity contracts", 1976, on the forward): derivatives are total, along the dynamics of the scenario, whose vols may move
 * with the price and with time.
 *
 * @param prices of the underlying, 0 or more
 * @param out results, overwritten
 */
export function fillHeld(
  expiry: MovedExpiry,
  sign: number,
  strike: number,
  scenario: Scenario,
  prices: Float64Array,
  out: MovedColumns,
  depth: Depth,
): void {
  const moment = expiry.moment(scenario);
  const { left, rate, discount, owed, owedByRate, growth, drift, growthByRate } = moment;
  if (!(left > LEAST_YEARS)) return fillExpired(sign, strike, prices, out);
  const isStill = scenario.dynamics === 'strike';
  const there: VolThere = { vol: NaN, byPrice: 0, byPriceTwice: 0, byTime: 0, byTimeAndPrice: 0, byRate: 0 };
  const path = isStill ? null : new VolPath(expiry, strike, moment, scenario);
  if (isStill) fillStill(expiry, strike, moment, scenario, there);
  const root = Math.sqrt(left);
  const growthByTime = -drift * growth;
  const owedGrown = rate * owed * growth;
  const rateGrown = owedByRate * growth;
  const { value, delta, gamma, theta, vega, rho, vanna, volga, charm, veta } = out;
  for (let i = 0; i < prices.length; i++) {
    const free = prices[i]! - owed;
    if (!(free > 0)) {
      fillWorthless(sign, discount * strike, moment, out, i);
      continue;
    }
    const forward = free * growth;
    path?.fill(forward, there);
    const s = there.vol * root;
    const d1 = log(forward / strike) / s + 0.5 * s;
    const d2 = d1 - s;
    // One exponential serves both tails and the density, since F·n(d1) = K·n(d2).
    const bell = exp(-0.5 * d1 * d1);
    const tail1 = bell * scaledTail(Math.abs(d1));
    const tail2 = bell * (forward / strike) * scaledTail(Math.abs(d2));
    const n1 = sign * d1 < 0 ? tail1 : 1 - tail1;
    const over = forward * n1;
    const under = strike * (sign * d2 < 0 ? tail2 : 1 - tail2);
    const difference = sign * (over - under);
    const paid = difference > LOST * over ? difference : lognormalUndiscounted(sign, forward, strike, s);
    value[i] = discount * paid;
    if (depth === 'values') continue;
    const density = bell * INV_SQRT_2PI;
    // Of what is paid: by the forward, by s = σ√τ, and of these two again.
    const byForward = sign * n1;
    const byS = forward * density;
    const byForwardTwice = density / (forward * s);
    const byForwardAndS = (-density * d2) / s;
    const bySTwice = (byS * d1 * d2) / s;
    const sByPrice = root * there.byPrice;
    const forwardByTime = -owedGrown - drift * forward;
    const sByTime = root * there.byTime - there.vol / (2 * root);
    delta[i] = discount * (byForward * growth + byS * sByPrice);
    gamma[i] =
      discount *
      (byForwardTwice * growth * growth +
        2 * byForwardAndS * growth * sByPrice +
        bySTwice * sByPrice * sByPrice +
        byS * root * there.byPriceTwice);
    const byVol = discount * byS * root;
    vega[i] = byVol * POINT;
    theta[i] = (rate * value[i]! + discount * (byForward * forwardByTime + byS * sByTime)) * DAY;
    const forwardByRate = growthByRate * forward - rateGrown;
    rho[i] = (discount * (byForward * forwardByRate + byS * root * there.byRate) - left * value[i]!) * POINT;
    if (depth === 'first') continue;
    vanna[i] = discount * root * (byForwardAndS * growth + bySTwice * sByPrice) * POINT;
    volga[i] = discount * bySTwice * left * POINT * POINT;
    const sByPriceAndTime = root * there.byTimeAndPrice - there.byPrice / (2 * root);
    const forwardMoves = byForwardTwice * forwardByTime + byForwardAndS * sByTime;
    const volMoves = byForwardAndS * forwardByTime + bySTwice * sByTime;
    charm[i] =
      (rate * delta[i]! +
        discount * (forwardMoves * growth + byForward * growthByTime + volMoves * sByPrice + byS * sByPriceAndTime)) *
      DAY;
    veta[i] = (rate * byVol + discount * root * volMoves - (discount * byS) / (2 * root)) * POINT * DAY;
  }
}

/** What has ended pays what it pays, and nothing moves it but the price. */
function fillExpired(sign: number, strike: number, prices: Float64Array, out: MovedColumns): void {
  for (const column of Object.values(out)) column.fill(0);
  for (let i = 0; i < prices.length; i++) {
    const price = prices[i]!;
    out.value[i] = Math.max(0, sign * (price - strike));
    out.delta[i] = expiredDelta(sign, strike, price);
  }
}

/** Where nothing is left of the forward: a put is paid its strike for certain. */
function fillWorthless(sign: number, held: number, { rate, left }: Moment, out: MovedColumns, at: number): void {
  for (const column of Object.values(out)) column[at] = 0;
  if (sign > 0) return;
  out.value[at] = held;
  out.theta[at] = rate * held * DAY;
  out.rho[at] = -left * held * POINT;
}

/** A strike that keeps its vol: announcements alone move it. */
function fillStill(expiry: MovedExpiry, strike: number, moment: Moment, scenario: Scenario, there: VolThere): void {
  const k = expiry.moneyness(strike, NaN, moment, 'strike');
  there.vol = expiry.volAlong(k, moment, scenario);
  there.byTime = expiry.volByEvents(k, scenario) * moment.eventSlope;
}

/** Of a deviation of the log-moneyness: with four neighbours what is left goes with its fourth power. */
const STEP = 0.02;

/** A strike whose vol is read at another moneyness as the price and time move. */
class VolPath {
  private readonly step: number;
  /** dk/d ln F is the negative of it; it grows as time passes where deviations are kept. */
  private readonly scale: number;
  private readonly scaleByTime: number;

  constructor(
    private readonly expiry: MovedExpiry,
    private readonly strike: number,
    private readonly moment: Moment,
    private readonly scenario: Scenario,
  ) {
    const { years, atmVol } = expiry.fit;
    const { left } = moment;
    this.step = STEP * (atmVol > 0 ? atmVol : 0.2) * Math.sqrt(years);
    const isByDelta = scenario.dynamics === 'delta';
    this.scale = isByDelta ? Math.sqrt(years / left) : 1;
    this.scaleByTime = isByDelta ? this.scale / (2 * left) : 0;
  }

  fill(forward: number, there: VolThere): void {
    const { expiry, moment, scenario, step, scale, scaleByTime } = this;
    const { drift, growth, owed, rate, eventSlope, growthByRate, owedByRate } = moment;
    const away = Math.log(this.strike / forward);
    const k = scale * away;
    const at = (n: number) => expiry.volAlong(k + n * step, moment, scenario);
    const eventful = (n: number) => expiry.volByEvents(k + n * step, scenario);
    const [a, b, here, c, d] = [at(-2), at(-1), at(0), at(1), at(2)];
    const slope = (8 * (c - b) - (d - a)) / (12 * step);
    const bend = (16 * (b + c) - a - d - 30 * here) / (12 * step * step);
    const eventsSlope =
      eventSlope === 0 ? 0 : (8 * (eventful(1) - eventful(-1)) - (eventful(2) - eventful(-2))) / (12 * step);
    // ln F by price and by time.
    const byPrice = growth / forward;
    const byTime = (-rate * owed * growth) / forward - drift;
    const kByPrice = -scale * byPrice;
    const kByTime = -scale * byTime + scaleByTime * away;
    const byPriceAndTime = -byPrice * (drift + byTime);
    there.vol = here;
    there.byPrice = slope * kByPrice;
    there.byPriceTwice = bend * kByPrice * kByPrice + slope * scale * byPrice * byPrice;
    there.byTime = (eventSlope === 0 ? 0 : eventful(0) * eventSlope) + slope * kByTime;
    there.byTimeAndPrice =
      (eventsSlope * eventSlope + bend * kByTime) * kByPrice - slope * (scaleByTime * byPrice + scale * byPriceAndTime);
    there.byRate = -slope * scale * (growthByRate - (owedByRate * growth) / forward);
  }
}

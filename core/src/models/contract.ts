import { normalCdf, scaledTail } from '../distributions';
import { bachelierValues } from './bachelier';
import { makeFirstOrder, priceEuropean } from './european';
import { CALL, DAYS_PER_YEAR, PUT, type ModelId, type Side } from './model';

/** One contract. `spot` for black-scholes-merton and garman-kohlhagen, `forward` for the other two. */
export interface Contract {
  model: ModelId;
  side: Side;
  spot?: number;
  forward?: number;
  strike: number;
  years: number;
  rate: number;
  /** Dividend yield, or the foreign rate of garman-kohlhagen; zero unless given. */
  yield?: number;
  vol: number;
}

/** Units as in docs/conventions.md. A value that does not exist is NaN. */
export interface ContractValues {
  price: number;
  delta: number;
  gamma: number;
  theta: number;
  vega: number;
  rho: number;
  vanna: number;
  volga: number;
  charm: number;
  speed: number;
  color: number;
  veta: number;
  zomma: number;
  itm: number;
  touch: number;
}

const single = {
  spot: new Float64Array(1),
  strike: new Float64Array(1),
  years: new Float64Array(1),
  rate: new Float64Array(1),
  yield: new Float64Array(1),
  vol: new Float64Array(1),
  sign: new Float64Array(1),
};
const singleOut = makeFirstOrder(1);

/**
 * Price, Greeks, in-the-money and touch probability of one European contract.
 * The first-order part runs through the batch kernel; the higher Greeks are the closed forms of
 * E. G. Haug, "The Complete Guide to Option Pricing Formulas" (2nd ed. 2007), chapter 2, turned to
 * calendar time.
 *
 * @throws RangeError when the price input that the model needs is missing
 */
export function priceContract(contract: Contract): ContractValues {
  const sign = contract.side === 'call' ? CALL : PUT;
  const { strike, years, rate, vol, model } = contract;
  const onForward = model === 'black-76' || model === 'bachelier';
  const underlying = onForward ? contract.forward : contract.spot;
  if (underlying === undefined) {
    throw new RangeError(`${model} needs ${onForward ? 'forward' : 'spot'}`);
  }
  if (model === 'bachelier') {
    return bachelierValues({ sign, forward: underlying, strike, years, rate, vol });
  }
  const carryYield = onForward ? rate : (contract.yield ?? 0);
  single.spot[0] = underlying;
  single.strike[0] = strike;
  single.years[0] = years;
  single.rate[0] = rate;
  single.yield[0] = carryYield;
  single.vol[0] = vol;
  single.sign[0] = sign;
  priceEuropean(single, singleOut, 1);
  const price = singleOut.price[0]!;
  const delta = singleOut.delta[0]!;
  const gamma = singleOut.gamma[0]!;
  const vega = singleOut.vega[0]!;
  const higher = higherGreeks(underlying, strike, years, rate, carryYield, vol, { delta, gamma, vega });
  return {
    price,
    delta,
    gamma: Number.isFinite(gamma) ? gamma : NaN,
    theta: singleOut.theta[0]!,
    vega,
    rho: onForward ? -years * price * 0.01 : singleOut.rho[0]!,
    ...higher,
    itm: singleOut.itm[0]!,
    touch: touchProbability(underlying, strike, years, rate - carryYield, vol),
  };
}

function higherGreeks(
  spot: number,
  strike: number,
  years: number,
  rate: number,
  carryYield: number,
  vol: number,
  first: { delta: number; gamma: number; vega: number },
) {
  const deviation = vol * Math.sqrt(years);
  const { delta, gamma, vega } = first;
  if (!(deviation > 0)) {
    const bent = Number.isFinite(gamma) ? 0 : NaN;
    return {
      vanna: bent,
      volga: bent,
      charm: (carryYield * delta) / DAYS_PER_YEAR,
      speed: bent,
      color: bent,
      veta: bent,
      zomma: bent,
    };
  }
  const carry = rate - carryYield;
  const d1 = (Math.log(spot / strike) + carry * years) / deviation + 0.5 * deviation;
  const d2 = d1 - deviation;
  const half = 1 / (2 * years);
  const d1ByYears = (carry + 0.5 * vol * vol) / deviation - d1 * half;
  // S·e^(−qT)·n(d1)/σ√T = S²Γ, so every bell below is had from gamma.
  const bell = gamma * spot * deviation;
  const vegaRaw = vega * 100;
  return {
    vanna: ((-bell * d2) / vol) * 0.01,
    volga: ((vegaRaw * d1 * d2) / vol) * 1e-4,
    charm: (carryYield * delta - bell * d1ByYears) / DAYS_PER_YEAR,
    speed: (-gamma / spot) * (d1 / deviation + 1),
    color: (gamma * (carryYield + d1 * d1ByYears + half)) / DAYS_PER_YEAR,
    veta: (vega * (carryYield + d1 * d1ByYears - half)) / DAYS_PER_YEAR,
    zomma: ((gamma * (d1 * d2 - 1)) / vol) * 0.01,
  };
}

/**
 * Probability that a geometric Brownian motion reaches a level at any time up to expiry, watched
 * continuously (reflection principle; Shreve, "Stochastic Calculus for Finance II", section 7.3).
 *
 * @param spot price now
 * @param level level to be reached
 * @param drift growth rate of the forward, r − q (0 for a future)
 * @returns 1 when the price is on the level; NaN for a spot or level that is not positive, or without a vol
 */
export function touchProbability(spot: number, level: number, years: number, drift: number, vol: number): number {
  if (!(spot > 0 && level > 0) || Number.isNaN(vol)) return NaN;
  const distance = Math.log(level / spot);
  if (distance === 0) return 1;
  const deviation = vol * Math.sqrt(years);
  const up = Math.sign(distance);
  if (!(deviation > 0)) return up * drift * years >= Math.abs(distance) ? 1 : 0;
  const logDrift = drift - 0.5 * vol * vol;
  const travelled = up * logDrift * years;
  const h = Math.abs(distance);
  const ended = normalCdf((travelled - h) / deviation);
  // The weight e^(2μh/σ²) overflows where the reflected tail vanishes; written with the scaled tail their
  // product is a single bounded exponential.
  const z = (travelled + h) / deviation;
  const gap = (travelled - h) / deviation;
  const echo =
    z >= 0
      ? Math.exp(-0.5 * gap * gap) * scaledTail(Math.min(z, 1e30))
      : Math.exp((2 * logDrift * distance) / (vol * vol)) * normalCdf(-z);
  return Math.min(1, ended + echo);
}

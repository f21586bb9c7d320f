import { americanAt, expiryTerms, type WrittenOn } from '../chain';
import { impliedAmericanVols, impliedVols, quoteReason } from '../implied';
import {
  DAYS_PER_YEAR,
  earlyExercise,
  makeEuropean,
  makeFirstOrder,
  priceEuropean,
  sheetTheta,
  type AmericanExpiry,
  type SpotTerms,
} from '../models';

/** One contract over the moments of a past, aligned with them; NaN where it is not held. */
export interface PastContract {
  /** +1 call, −1 put. */
  readonly sign: number;
  readonly strike: number;
  /** Left to the expiry; 0 or less where it has ended, and its payoff at the price of that moment is what it is worth. */
  readonly years: Float64Array;
  readonly forward: Float64Array;
  readonly rate: Float64Array;
  /** At the forward, by the curve. */
  readonly atmVol: Float64Array;
  /** Of its strike, by the curve. */
  readonly curveVol: Float64Array;
  readonly bid: Float64Array;
  readonly ask: Float64Array;
}

/** One unit of a contract at a moment. */
export interface ContractValue {
  value: number;
  delta: number;
  gamma: number;
  /** A day. */
  theta: number;
  /** A point. */
  vega: number;
  vol: number;
}

/** Vols around that of the curve at the forward between which boundaries are interpolated. */
const UNDER = 0.5;
const OVER = 2;
/** Share of a vol over which vegas of American contracts are taken. */
const BUMP = 0.01;

const single = makeEuropean(1);
const singleOut = makeFirstOrder(1);

/** One contract at one moment, ready to be valued at any vol. */
export class ContractThen {
  private readonly input: SpotTerms;
  private readonly american: AmericanExpiry | null;
  private readonly mid: number;
  private readonly forward: number;

  constructor(on: WrittenOn, { sign, strike, ...columns }: PastContract, at: number) {
    const [years, rate] = [columns.years[at]!, columns.rate[at]!];
    this.forward = columns.forward[at]!;
    const [bid, ask] = [columns.bid[at]!, columns.ask[at]!];
    this.mid = quoteReason(bid, ask) === 0 ? 0.5 * (bid + ask) : NaN;
    const terms = expiryTerms(on, { years, forward: this.forward, rate, discount: Math.exp(-rate * years) });
    this.input = { ...terms, sign, strike };
    const isEarly = on.exercise === 'american' && earlyExercise(sign, rate, terms.yield, years) !== 'never';
    const middle = columns.atmVol[at]!;
    this.american = isEarly ? americanAt(terms, UNDER * middle, OVER * middle) : null;
  }

  /** What holding a unit of the underlying earns a year beside its price: yield, in which the forward has it. */
  get carryYield(): number {
    return this.input.yield;
  }

  /** The vol of its mid; NaN where it has none, or its quote is no market. */
  ownVol(): number {
    const { sign, strike, years, rate } = this.input;
    const one = (value: number) => Float64Array.of(value);
    const own = one(NaN);
    impliedVols(one(this.forward), one(strike), one(years), one(this.mid * Math.exp(rate * years)), one(sign), own, 1);
    if (!this.american) return own[0]!;
    const vols = { bid: own.slice(), mid: own, ask: own.slice() };
    const mid = one(this.mid);
    impliedAmericanVols(this.american, sign, one(strike), { bid: mid, mid, ask: mid }, vols);
    return vols.mid[0]!;
  }

  /** What it is worth at a vol, and how it reacts. */
  at(vol: number): ContractValue {
    const { input, american } = this;
    const { sign, spot, strike } = input;
    if (american) {
      const sheet = american.sheet(sign, strike, vol);
      const [value, delta, gamma] = sheet;
      const [up, down] = [vol * (1 + BUMP), vol * (1 - BUMP)];
      const vega = (american.price(sign, strike, up) - american.price(sign, strike, down)) / (100 * (up - down));
      return { value, delta, gamma, theta: sheetTheta(sheet, { ...input, vol }) / DAYS_PER_YEAR, vega, vol };
    }
    single.spot[0] = spot;
    single.strike[0] = strike;
    single.years[0] = input.years;
    single.rate[0] = input.rate;
    single.yield[0] = input.yield;
    single.vol[0] = vol;
    single.sign[0] = sign;
    priceEuropean(single, singleOut, 1);
    const { price, delta, gamma, theta, vega } = singleOut;
    return { value: price[0]!, delta: delta[0]!, gamma: gamma[0]!, theta: theta[0]!, vega: vega[0]!, vol };
  }
}

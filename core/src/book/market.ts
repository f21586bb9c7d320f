import { expiryTerms, sideOf, type ExpiryFit, type WrittenOn } from '../chain';
import { expiryAt, expiryName, isUnderlying, type ContractId, type OptionId } from '../contracts';
import { quoteReason } from '../implied';
import {
  americanExpiry,
  DAYS_PER_YEAR,
  earlyExercise,
  priceContract,
  sheetTheta,
  type AmericanExpiry,
  type Contract,
  type ExpiryTerms,
} from '../models';
import { MovedExpiry, type ListedSlice, type MarketAround, type MovedGreek, type Scenario } from '../structures';
import { curveVol } from '../surface';
import { contractKey } from './ledger';

/** Greeks of one unit, in the units of the conventions: those that scenarios have. */
export type MarkGreeks = Record<MovedGreek, number>;

/** What one unit of a contract is worth at a moment. NaN for what is not known. */
export interface Mark extends MarkGreeks {
  bid: number;
  ask: number;
  /** NaN where its quotes are no market. */
  mid: number;
  /** By the curve. */
  theory: number;
  /** Of its strike on the curve. */
  vol: number;
  /** Calendar days to its expiry; NaN of the underlying. */
  days: number;
}

/** What is held is worth its mid where it has a market, the side at which it would be closed, or its curve always. */
export const WORTH_BY = ['mid', 'closing', 'curve'] as const;
export type WorthBy = (typeof WORTH_BY)[number];

/** An underlying at a moment. */
export interface HeldMarket {
  readonly symbol: string;
  readonly slices: readonly ListedSlice[];
  readonly around: MarketAround;
}

type Values = MarkGreeks & { theory: number };

const NO_GREEKS: MarkGreeks = {
  ...{ delta: 0, gamma: 0, theta: 0, vega: 0, rho: 0 },
  ...{ vanna: 0, volga: 0, charm: 0, veta: 0 },
};

/** Vols around that of the curve at the forward between which boundaries are interpolated, as shares. */
const UNDER = 0.5;
const OVER = 2;
/** Steps that slopes of American contracts are taken over: shares of the vol and of the time that is left, and a rate. */
const VOL_SHARE = 0.01;
const TIME_SHARE = 0.01;
const RATE_STEP = 5e-4;
const POINT = 0.01;

const signOf = ({ side }: OptionId) => (side === 'call' ? 1 : -1);

/** An underlying at a moment, ready to be asked what its contracts are worth. */
export class MarketAt {
  private readonly marks = new Map<string, Mark | null>();
  private readonly moved = new Map<number, MovedExpiry>();
  private readonly places = new Map<string, number>();
  private readonly boundaries = new Map<ExpiryFit, EarlyTerms>();
  private readonly fromCurve: (fit: ExpiryFit) => (k: number) => number;

  constructor(readonly market: HeldMarket) {
    this.fromCurve = ({ curve }) => (curve ? (k) => curveVol(curve, k) : () => NaN);
  }

  private sliceAt(contract: OptionId): number {
    const name = expiryName(contract);
    const known = this.places.get(name);
    if (known !== undefined) return known;
    const at = expiryAt(this.market.slices, contract);
    this.places.set(name, at);
    return at;
  }

  /**
   * What a contract is worth; by its curve alone where it has no quotes.
   *
   * @returns null where its expiry is not held, or has no curve
   */
  mark(contract: ContractId): Mark | null {
    const { spot } = this.market.around;
    if (isUnderlying(contract))
      return { ...NO_GREEKS, bid: spot, ask: spot, mid: spot, theory: spot, vol: NaN, days: NaN, delta: 1 };
    const key = contractKey(contract);
    const known = this.marks.get(key);
    if (known !== undefined) return known;
    const made = this.markOf(contract);
    this.marks.set(key, made);
    return made;
  }

  private markOf(contract: OptionId): Mark | null {
    const quoted = this.quotedOf(contract);
    if (!quoted) return null;
    const { fit, ...quote } = quoted;
    return { ...quote, days: fit.days, ...this.valuesOf(contract, fit, quote.vol) };
  }

  /** Quotes of a contract and its vol on the curve; null where its expiry is not held, or has no curve. */
  private quotedOf(contract: OptionId): { bid: number; ask: number; mid: number; vol: number; fit: ExpiryFit } | null {
    const { strike, side } = contract;
    const slice = this.market.slices[this.sliceAt(contract)];
    if (!slice?.fit.curve || !(slice.fit.years > 0)) return null;
    const { fit } = slice;
    const vol = curveVol(slice.fit.curve, Math.log(strike / fit.forward));
    if (!(vol > 0)) return null;
    const at = slice.strike.indexOf(strike);
    const isAside = fit.aside.some((one) => one.side === side && one.strike === strike);
    const quotes = sideOf(slice, side);
    const [bid, ask] = at < 0 || isAside ? [NaN, NaN] : [quotes.bid[at]!, quotes.ask[at]!];
    return { bid, ask, mid: quoteReason(bid, ask) === 0 ? 0.5 * (bid + ask) : NaN, vol, fit };
  }

  /**
   * What one unit of a contract is worth: by its mid where it has a market, else by its curve; or at the side at which so many are closed;
   * or by its curve always. Without the work of its Greeks.
   *
   * @returns NaN where that is not known
   */
  worth(contract: ContractId, quantity: number, by: WorthBy): number {
    if (isUnderlying(contract)) return this.market.around.spot;
    const quoted = this.quotedOf(contract);
    if (!quoted) return NaN;
    if (by !== 'curve' && Number.isFinite(quoted.mid))
      return by === 'mid' ? quoted.mid : quantity > 0 ? quoted.bid : quoted.ask;
    return this.mark(contract)?.theory ?? NaN;
  }

  private valuesOf(contract: OptionId, fit: ExpiryFit, vol: number): Values {
    const { on } = this.market.around;
    const terms = expiryTerms(on, fit);
    const sign = signOf(contract);
    const isEarly = on.exercise === 'american' && earlyExercise(sign, terms.rate, terms.yield, terms.years) !== 'never';
    if (!isEarly) return heldValues(contract, terms, on, vol);
    const early = this.boundaries.get(fit) ?? earlyTerms(terms, on, fit.atmVol);
    this.boundaries.set(fit, early);
    return earlyValues(sign, contract.strike, vol, early);
  }

  /** An expiry that can be moved through scenarios; null where it is not held, or has no curve. */
  expiry(contract: OptionId): MovedExpiry | null {
    const at = this.sliceAt(contract);
    const slice = this.market.slices[at];
    if (!slice?.fit.curve || !(slice.fit.years > 0)) return null;
    const made = this.moved.get(at) ?? new MovedExpiry(slice.fit, this.market.around, this.fromCurve(slice.fit));
    this.moved.set(at, made);
    return made;
  }

  /** What one unit of a contract is worth in a scenario, by its curve; NaN where that is not known. */
  value(contract: ContractId, scenario: Scenario): number {
    if (isUnderlying(contract)) return scenario.price;
    return this.expiry(contract)?.value(signOf(contract), contract.strike, scenario) ?? NaN;
  }
}

/** What a contract that is held to its end is worth by its curve, with all Greeks. */
function heldValues(
  { strike, side }: OptionId,
  { years, rate, spot, ...terms }: ExpiryTerms,
  on: WrittenOn,
  vol: number,
): Values {
  const plain: Contract =
    on.kind === 'future'
      ? { model: 'black-76', side, strike, years, vol, rate, forward: spot }
      : { model: 'black-scholes-merton', side, strike, years, vol, rate, spot, yield: terms.yield };
  const { price: theory, delta, gamma, theta, vega, rho, vanna, volga, charm, veta } = priceContract(plain);
  return { theory, delta, gamma, theta, vega, rho, vanna, volga, charm, veta };
}

/** An expiry whose contracts may be exercised early, and the same a little later, earlier, and at other rates. */
interface EarlyTerms {
  readonly terms: ExpiryTerms;
  readonly time: number;
  readonly now: AmericanExpiry;
  readonly later: AmericanExpiry;
  readonly earlier: AmericanExpiry;
  readonly less: AmericanExpiry;
  readonly more: AmericanExpiry;
}

function earlyTerms(terms: ExpiryTerms, on: WrittenOn, atmVol: number): EarlyTerms {
  const priced = (change: Partial<ExpiryTerms> = {}) =>
    americanExpiry({ ...terms, ...change }, UNDER * atmVol, OVER * atmVol);
  const time = TIME_SHARE * terms.years;
  // A future holds its forward, so its yield moves with the rate.
  const rated = (by: number) => priced({ rate: terms.rate + by, yield: terms.yield + (on.kind === 'future' ? by : 0) });
  return {
    ...{ terms, time, now: priced(), later: priced({ years: terms.years - time }) },
    ...{ earlier: priced({ years: terms.years + time }), less: rated(-RATE_STEP), more: rated(RATE_STEP) },
  };
}

/** What a contract that may be exercised early is worth, with all Greeks: on the price and the yield that leads from it to the forward. */
function earlyValues(sign: number, strike: number, vol: number, early: EarlyTerms): Values {
  const { terms, time, now, later, earlier } = early;
  const sheet = now.sheet(sign, strike, vol);
  const [theory, delta, gamma] = sheet;
  const step = VOL_SHARE * vol;
  const [under, over] = [now.sheet(sign, strike, vol - step), now.sheet(sign, strike, vol + step)];
  const perDay = 1 / (2 * time * DAYS_PER_YEAR);
  const vegaOf = (expiry: AmericanExpiry) =>
    ((expiry.price(sign, strike, vol + step) - expiry.price(sign, strike, vol - step)) / (2 * step)) * POINT;
  return {
    ...{ theory, delta, gamma },
    theta: sheetTheta(sheet, { ...terms, sign, strike, vol }) / DAYS_PER_YEAR,
    vega: ((over[0] - under[0]) / (2 * step)) * POINT,
    rho: ((early.more.price(sign, strike, vol) - early.less.price(sign, strike, vol)) / (2 * RATE_STEP)) * POINT,
    vanna: ((over[1] - under[1]) / (2 * step)) * POINT,
    volga: ((over[0] + under[0] - 2 * theory) / (step * step)) * POINT * POINT,
    charm: (later.sheet(sign, strike, vol)[1] - earlier.sheet(sign, strike, vol)[1]) * perDay,
    veta: (vegaOf(later) - vegaOf(earlier)) * perDay,
  };
}

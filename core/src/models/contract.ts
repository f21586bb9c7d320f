import {
  americanValues,
  earlyExercise,
  priceAmericanContract,
  type AmericanInput,
  type AmericanSetting,
} from './american';
import { bachelierValues } from './bachelier';
import { binomialValues, priceBinomial } from './binomial';
import { dividendsOf, escrowDuration, escrowOf } from './escrow';
import { makeEuropean, makeFirstOrder, priceEuropean } from './european';
import { CALL, DAYS_PER_YEAR, exerciseOf, isOnForward, PUT, underlyingOf, type Contract, type ModelId } from './model';
import { touchProbability } from './touch';

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

const single = makeEuropean(1);
const singleOut = makeFirstOrder(1);

/**
 * The model whose numbers a contract gets: `american` goes to the tree where it has cash dividends, or two exercise
 * boundaries.
 */
export function pricingModel(contract: Omit<Contract, 'vol'>): ModelId {
  if (contract.model !== 'american') return contract.model;
  const sign = contract.side === 'call' ? CALL : PUT;
  const isInTree =
    dividendsOf(contract).length > 0 || earlyExercise(sign, contract.rate, contract.yield ?? 0) === 'between';
  return isInTree ? 'binomial' : 'american';
}

/**
 * Price, Greeks, in-the-money and touch probability of one contract under any model.
 * Of the European ones the first-order part runs through the batch kernel; the higher Greeks are the closed forms of
 * E. G. Haug, "The Complete Guide to Option Pricing Formulas" (2nd ed. 2007), chapter 2, turned to
 * calendar time. Cash dividends are escrowed. The odds are those of the price at expiry and of its way there, whatever
 * the exercise; with cash dividends nobody has a closed form for touching, and it is NaN.
 *
 * @param setting of early exercise
 * @throws RangeError when the price input that the model needs is missing
 */
export function priceContract(contract: Contract, setting: AmericanSetting = 'precise'): ContractValues {
  const sign = contract.side === 'call' ? CALL : PUT;
  const { strike, years, rate, vol, model } = contract;
  const underlying = underlyingOf(contract);
  if (model === 'bachelier') {
    return bachelierValues({ sign, forward: underlying, strike, years, rate, vol });
  }
  const isHeld = isOnForward(model);
  const carryYield = isHeld ? rate : (contract.yield ?? 0);
  const escrowed = isHeld ? 0 : escrowOf(contract)(0);
  const input = { sign, spot: underlying, strike, years, rate, yield: carryYield, vol };
  const closed = lognormalValues({ ...input, spot: underlying - escrowed }, isHeld);
  const odds = {
    itm: closed.itm,
    touch: escrowed === 0 ? touchProbability(underlying, strike, years, rate - carryYield, vol) : NaN,
  };
  const pricing = pricingModel(contract);
  if (pricing === 'american') return { ...americanValues(input, setting), ...odds };
  if (pricing === 'binomial') {
    const isAmerican = exerciseOf(contract) === 'american';
    return { ...binomialValues({ ...input, isAmerican, dividends: contract.dividends }, contract.steps), ...odds };
  }
  return { ...(escrowed === 0 ? closed : withEscrow(closed, contract, escrowed)), ...odds };
}

/**
 * The price alone of {@link priceContract}, without the work of its Greeks.
 *
 * @param setting of early exercise
 * @throws RangeError when the price input that the model needs is missing
 * @example contractPrice({ model: 'black-scholes-merton', side: 'call', spot: 42, strike: 40, years: 0.5, rate: 0.1, vol: 0.2 }) // 4.759
 */
export function contractPrice(contract: Contract, setting: AmericanSetting = 'precise'): number {
  const pricing = pricingModel(contract);
  if (pricing !== 'american' && pricing !== 'binomial') return priceContract(contract).price;
  const { side, strike, years, rate, vol, dividends, steps } = contract;
  const sign = side === 'call' ? CALL : PUT;
  const input = { sign, spot: underlyingOf(contract), strike, years, rate, yield: contract.yield ?? 0, vol };
  if (pricing === 'american') return priceAmericanContract(input, setting);
  return priceBinomial({ ...input, isAmerican: exerciseOf(contract) === 'american', dividends }, steps);
}

/** The European formula on one contract, all Greeks. */
function lognormalValues(input: AmericanInput, isForwardHeld: boolean) {
  const { sign, spot, strike, years, rate, vol } = input;
  single.spot[0] = spot;
  single.strike[0] = strike;
  single.years[0] = years;
  single.rate[0] = rate;
  single.yield[0] = input.yield;
  single.vol[0] = vol;
  single.sign[0] = sign;
  priceEuropean(single, singleOut, 1);
  const price = singleOut.price[0]!;
  const delta = singleOut.delta[0]!;
  const gamma = singleOut.gamma[0]!;
  const vega = singleOut.vega[0]!;
  return {
    price,
    delta,
    gamma: Number.isFinite(gamma) ? gamma : NaN,
    theta: singleOut.theta[0]!,
    vega,
    rho: isForwardHeld ? -years * price * 0.01 : singleOut.rho[0]!,
    ...higherGreeks(spot, strike, years, rate, input.yield, vol, { delta, gamma, vega }),
    itm: singleOut.itm[0]!,
  };
}

/** Greeks to the spot with its dividends from those to the spot without: their present value grows at the rate. */
function withEscrow(
  stripped: ReturnType<typeof lognormalValues>,
  contract: Contract,
  escrowed: number,
): ReturnType<typeof lognormalValues> {
  const growthPerDay = (contract.rate * escrowed) / DAYS_PER_YEAR;
  return {
    ...stripped,
    theta: stripped.theta - growthPerDay * stripped.delta,
    charm: stripped.charm - growthPerDay * stripped.gamma,
    color: stripped.color - growthPerDay * stripped.speed,
    veta: stripped.veta - growthPerDay * stripped.vanna,
    rho: stripped.rho + escrowDuration(contract) * stripped.delta * 0.01,
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

import {
  CALL,
  contractPrice,
  escrowOf,
  isOnForward,
  priceContract,
  pricingModel,
  PUT,
  underlyingOf,
  type AmericanSetting,
  type Contract,
  type ContractValues,
  type ModelId,
} from '../models';

/** What is read off one side of a contract, per unit. NaN where it does not exist. */
export interface SideReading extends ContractValues {
  pricedBy: ModelId;
  /** What exercising now earns, floored at nothing. */
  intrinsic: number;
  timeValue: number;
  /** Underlying at expiry at which the price paid is earned back. */
  breakEven: number;
  /** Odds that it ends beyond that. */
  breakEvenOdds: number;
  /** Price over the European contract's, where it can be exercised early. */
  earlyPremium: number;
  /** Vol points that undo what a day takes. */
  volPerDay: number;
}

/** The European contract of the same terms: what the odds at expiry are read from. */
function european(contract: Contract): Contract {
  const { exercise: _, steps: __, ...terms } = contract;
  const isEarly = contract.model === 'american' || contract.model === 'binomial';
  return isEarly ? { ...terms, model: 'black-scholes-merton' } : terms;
}

/**
 * Odds that the underlying ends beyond the break-even of a price, under flat vol: the in-the-money odds of that strike.
 *
 * @param price paid per unit, as of now
 */
export function breakEvenOdds(contract: Contract, price: number): number {
  const sign = contract.side === 'call' ? CALL : PUT;
  const strike = contract.strike + sign * price;
  if (contract.model !== 'bachelier' && !(strike > 0)) return sign > 0 ? 1 : 0;
  return priceContract({ ...european(contract), strike }).itm;
}

/** Without early exercise, by the method that priced the contract: what is left of its error falls out. */
function europeanPrice(contract: Contract, pricedBy: ModelId): number {
  return contractPrice(
    pricedBy === 'binomial' ? { ...contract, model: 'binomial', exercise: 'european' } : european(contract),
  );
}

/**
 * A contract's price and all that is read off it.
 *
 * @param setting of early exercise
 */
export function sideReading(contract: Contract, setting: AmericanSetting = 'precise'): SideReading {
  const sign = contract.side === 'call' ? CALL : PUT;
  const values = priceContract(contract, setting);
  const { price, theta, vega } = values;
  const pricedBy = pricingModel(contract);
  const isEarly = pricedBy === 'american' || pricedBy === 'binomial';
  const intrinsic = Math.max(0, sign * (underlyingOf(contract) - contract.strike));
  return {
    ...values,
    pricedBy,
    intrinsic,
    timeValue: price - intrinsic,
    breakEven: contract.strike + sign * price,
    breakEvenOdds: breakEvenOdds(contract, price),
    earlyPremium: isEarly ? price - europeanPrice(contract, pricedBy) : NaN,
    volPerDay: vega > 0 ? -theta / vega : NaN,
  };
}

/** Forward of a contract: as given, or by carry from the spot less its cash dividends. */
export function forwardOf(contract: Contract): number {
  const { rate, years } = contract;
  if (isOnForward(contract.model)) return underlyingOf(contract);
  return (underlyingOf(contract) - escrowOf(contract)(0)) * Math.exp((rate - (contract.yield ?? 0)) * years);
}

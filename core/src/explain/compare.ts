import { exerciseOf, underlyingOf, type Contract, type ModelId } from '../models';
import { forwardOf } from './reading';

/** A contract as another model takes it. */
export interface ComparedModel {
  model: ModelId;
  contract: Contract;
  /** What was turned into what, where an input has another meaning. */
  note: string | null;
}

/**
 * One contract in all models that fit it, on the same forward: those on the spot with its yield or dividends, those on the
 * forward with the one that these lead to, the normal one at a vol of σ√(FK) (common practice: the two agree near the money).
 */
export function comparable(contract: Contract): ComparedModel[] {
  const { side, strike, years, rate, dividends, steps } = contract;
  const forward = forwardOf(contract);
  const isNormal = contract.model === 'bachelier';
  const middle = Math.sqrt(forward * strike);
  const isPositive = forward > 0 && strike > 0;
  const vol = isNormal ? contract.vol / middle : contract.vol;
  const onForward = contract.model === 'black-76' || isNormal;
  // A forward is a price that costs nothing to hold: its yield is the rate.
  const held = onForward
    ? { spot: forward, yield: rate }
    : { spot: underlyingOf(contract), yield: contract.yield ?? 0, dividends };
  const terms = { side, strike, years, rate };
  const normal: ComparedModel = {
    model: 'bachelier',
    contract: { ...terms, model: 'bachelier', forward, vol: isNormal ? contract.vol : contract.vol * middle },
    note: isNormal ? null : 'vol × √(F·K)',
  };
  if (!isPositive) return [normal];
  const spot = onForward ? 'the forward, its yield the rate' : null;
  const tree = { ...terms, ...held, vol, steps };
  return [
    { model: 'black-scholes-merton', contract: { ...terms, ...held, vol, model: 'black-scholes-merton' }, note: spot },
    {
      model: 'black-76',
      contract: { ...terms, model: 'black-76', forward, vol },
      note: onForward ? null : 'the forward by carry',
    },
    { model: 'american', contract: { ...tree, model: 'american' }, note: spot },
    {
      model: 'binomial',
      contract: { ...tree, model: 'binomial', exercise: exerciseOf(contract) },
      note: exerciseOf(contract),
    },
    normal,
  ];
}

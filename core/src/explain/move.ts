import { contractPrice, DAYS_PER_YEAR, priceContract, type Contract, type ContractValues } from '../models';
import { inputOf, INPUTS, isPricedOn, withInput, type Input } from './inputs';

/** What one change explains, per unit. */
export interface MoveStep {
  /** Of dividends, `from` and `to` are their sums. */
  input: Input | 'dividends';
  from: number;
  to: number;
  /** The contract revalued with this change alone. */
  exact: number;
  /** The same by the Greeks of the state before; NaN for what has none. */
  estimate: number;
}

/** How the price of a contract got from one state to another. */
export interface Move {
  before: ContractValues;
  /** Its price. */
  after: number;
  steps: MoveStep[];
  /** What the changes do to each other: the whole change less those of each alone. */
  together: number;
  /** The same by the mixed Greeks. */
  togetherEstimate: number;
}

/** Greeks are per vol point, percentage point and day. */
const POINTS = 100;

function estimateOf(before: ContractValues, input: Input, change: number): number {
  const { delta, gamma, theta, vega, volga, rho } = before;
  switch (input) {
    case 'price':
      return delta * change + 0.5 * gamma * change * change;
    case 'vol':
      return vega * POINTS * change + 0.5 * volga * (POINTS * change) ** 2;
    case 'years':
      return -theta * DAYS_PER_YEAR * change;
    case 'rate':
      return rho * POINTS * change;
    default:
      return NaN;
  }
}

/**
 * Takes the move of a contract's price apart: each changed input alone, exactly and by the Greeks of the state before, and
 * what the changes do to each other.
 *
 * @param to a contract of the same model and side; a change of anything but its inputs and dividends counts as `together`
 */
export function explainMove(from: Contract, to: Contract): Move {
  const before = priceContract(from);
  const after = contractPrice(to);
  const steps = INPUTS.filter((input) => isPricedOn(from, input) && inputOf(from, input) !== inputOf(to, input)).map(
    (input): MoveStep => {
      const [old, value] = [inputOf(from, input), inputOf(to, input)];
      const alone = contractPrice(withInput(from, input, value));
      return {
        input,
        from: old,
        to: value,
        exact: alone - before.price,
        estimate: estimateOf(before, input, value - old),
      };
    },
  );
  if (JSON.stringify(from.dividends ?? []) !== JSON.stringify(to.dividends ?? [])) {
    const alone = contractPrice({ ...from, dividends: to.dividends });
    const [old, value] = [from, to].map(({ dividends = [] }) => dividends.reduce((sum, { amount }) => sum + amount, 0));
    steps.push({ input: 'dividends', from: old!, to: value!, exact: alone - before.price, estimate: NaN });
  }
  const change = (input: Input) => inputOf(to, input) - inputOf(from, input);
  const points = POINTS * change('vol');
  const days = -DAYS_PER_YEAR * change('years');
  const { vanna, charm, veta } = before;
  return {
    before,
    after,
    steps,
    together: after - before.price - steps.reduce((sum, { exact }) => sum + exact, 0),
    togetherEstimate: vanna * change('price') * points + charm * change('price') * days + veta * points * days,
  };
}

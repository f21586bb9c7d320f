/** A hedge of three Greeks in whole contracts, chosen from six. */
import { HEDGE_GREEKS, neutralizeWhole, type HedgeGreeks } from '../src';
import { measure } from './measure';

const HEDGES = 20;
const ROUNDS = 7;

const greeks = (delta: number, gamma: number, vega: number): HedgeGreeks =>
  ({ ...Object.fromEntries(HEDGE_GREEKS.map((name) => [name, 0])), delta, gamma, vega }) as HedgeGreeks;
const instruments = Array.from({ length: 6 }, (_, i) => ({
  ...greeks(5 + 0.3 * i, 0.02 / (1 + i), 20 * Math.sqrt(1 + i)),
  id: `option ${i}`,
}));

let left = 0;
measure(
  'hedge_whole',
  HEDGES,
  ROUNDS,
  () => {
    left = 0;
    for (let i = 0; i < HEDGES; i++) {
      const exposure = greeks(30 * i, -2.7 - 0.1 * i, -900 + 10 * i);
      const found = neutralizeWhole({ exposure, instruments, neutralize: ['delta', 'gamma', 'vega'] });
      if ('refused' in found) throw new Error(found.refused);
      left += found.leftFound;
    }
  },
  () => left,
);

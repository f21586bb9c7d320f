/** European prices with their first Greeks, in a batch. */
import { makeEuropean, makeFirstOrder, priceEuropean } from '../src';
import { measure, SplitMix64 } from './measure';

const ITEMS = 1_000_000;
const random = new SplitMix64(1);
const input = makeEuropean(ITEMS);
for (let i = 0; i < ITEMS; i++) {
  const a = 5000 + random.pick(15_001);
  const b = 6000 + random.pick(8001);
  input.spot[i] = a / 100;
  input.strike[i] = (a * b) / 1e6;
  input.years[i] = (7 + random.pick(724)) / 365;
  input.rate[i] = random.pick(801) / 1e4;
  input.yield[i] = random.pick(501) / 1e4;
  input.vol[i] = (1000 + random.pick(8001)) / 1e4;
  input.sign[i] = random.pick(2) === 1 ? 1 : -1;
}
const out = makeFirstOrder(ITEMS);

measure(
  'bs_price_core',
  ITEMS,
  7,
  () => priceEuropean(input, out, ITEMS),
  () => {
    let sum = 0;
    for (let i = 0; i < ITEMS; i++) {
      sum += out.price[i]! + 2 * out.delta[i]! + 3 * out.gamma[i]!;
      sum += 4 * out.theta[i]! + 5 * out.vega[i]! + 6 * out.rho[i]!;
    }
    return sum;
  },
);

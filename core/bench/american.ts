/** American prices, one boundary each: with the tables of the compiled program, and on the settings of the core. */
import { makeCollocation, makeEuropean, priceAmerican } from '../src';
import { measure, SplitMix64 } from './measure';

const ITEMS = 20_000;
const random = new SplitMix64(3);
const input = makeEuropean(ITEMS);
for (let i = 0; i < ITEMS; i++) {
  const a = 5000 + random.pick(15_001);
  const b = 7000 + random.pick(6001);
  input.spot[i] = a / 100;
  input.strike[i] = (a * b) / 1e6;
  input.years[i] = (7 + random.pick(724)) / 365;
  input.rate[i] = (50 + random.pick(751)) / 1e4;
  input.yield[i] = (50 + random.pick(551)) / 1e4;
  input.vol[i] = (1000 + random.pick(7001)) / 1e4;
  input.sign[i] = random.pick(2) === 1 ? 1 : -1;
}
const price = new Float64Array(ITEMS);
const sum = () => price.reduce((total, value) => total + value, 0);

const same = makeCollocation({ abscissae: 12, steps: 2, newton: 0, nodes: 6, premium: 32, start: 3, crowding: 1 });
measure('american_core', ITEMS, 7, () => priceAmerican(input, price, ITEMS, same), sum);
measure('american_fast_core', ITEMS, 3, () => priceAmerican(input, price, ITEMS, 'fast'), sum);
measure('american_precise_core', 2000, 2, () => priceAmerican(input, price, 2000, 'precise'), sum);

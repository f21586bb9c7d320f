/** Implied vols: in a batch, and one call per contract. */
import { impliedVol, impliedVols, lognormalUndiscounted } from '../src';
import { measure, SplitMix64 } from './measure';

const ITEMS = 1_000_000;
const random = new SplitMix64(2);
const column = () => new Float64Array(ITEMS);
const [forward, strike, years, price, sign, vol] = [column(), column(), column(), column(), column(), column()];
for (let i = 0; i < ITEMS; i++) {
  const a = 5000 + random.pick(15_001);
  const b = 6000 + random.pick(8001);
  const f = (forward[i] = a / 100);
  const k = (strike[i] = (a * b) / 1e6);
  years[i] = (7 + random.pick(724)) / 365;
  const deviation = ((1000 + random.pick(8001)) / 1e4) * Math.sqrt(years[i]!);
  sign[i] = k >= f ? 1 : -1;
  price[i] = lognormalUndiscounted(sign[i]!, f, k, deviation);
}
const sum = () => vol.reduce((total, value) => total + value, 0);

measure('implied_vol_core', ITEMS, 7, () => impliedVols(forward, strike, years, price, sign, vol, ITEMS), sum);

measure(
  'implied_vol_single_core',
  ITEMS,
  7,
  () => {
    for (let i = 0; i < ITEMS; i++) {
      const result = impliedVol({
        model: 'black-76',
        side: sign[i]! > 0 ? 'call' : 'put',
        forward: forward[i]!,
        strike: strike[i]!,
        years: years[i]!,
        rate: 0,
        price: price[i]!,
      });
      vol[i] = 'vol' in result ? result.vol : NaN;
    }
  },
  sum,
);

/** Profit and Greeks of four legs at 400 prices on six dates: European, and American with what early exercise is worth. */
import {
  curvesOnMarket,
  curveVol,
  emptySide,
  MOVED_GREEKS,
  naturalCurve,
  unmoved,
  type Depth,
  type Exercise,
  type ExpiryFit,
  type MarketStructure,
} from '../src';
import { measure } from './measure';

const SPOT = 100;
const YEARS = 0.25;
const DATES = 6;
const PRICES = Float64Array.from({ length: 400 }, (_, i) => 70 + 0.15 * i);
const STRIKES = Float64Array.of(90, 95, 105, 110);
const LEGS = [1, -1, -1, 1];
const ROUNDS = 7;

const curve = naturalCurve({ theta: 0.012, rho: -0.5, phi: 4 }, YEARS, SPOT * Math.exp(0.01 * YEARS));
const fit = {
  ...{
    expiry: '2031-06-19',
    settlement: 'pm',
    years: YEARS,
    forward: SPOT * Math.exp(0.01 * YEARS),
    rate: 0.03,
    curve,
  },
  ...{ atmVol: curveVol(curve, 0), aside: [] },
} as unknown as ExpiryFit;
const slice = { expiry: '2031-06-19', settlement: 'pm' as const, strike: STRIKES, fit };

function structureOf(exercise: Exercise): MarketStructure {
  return {
    slices: [{ ...slice, call: emptySide(4), put: emptySide(4) }],
    around: { on: { kind: 'equity', exercise, spot: SPOT }, spot: SPOT, dividends: [], events: [] },
    legs: LEGS.map((quantity, index) => ({
      ...{ symbol: 'X', expiry: slice.expiry, settlement: slice.settlement, strike: STRIKES[index]!, index, slice: 0 },
      ...{ side: index < 2 ? ('put' as const) : ('call' as const), quantity },
    })),
    ...{ ownVols: LEGS.map(() => NaN), fill: 'mid', past: () => null, scenario: unmoved(SPOT) },
    choice: { basis: 'curve', realizedVol: NaN, indexVol: NaN },
  };
}

const MOMENTS = Array.from({ length: DATES }, (_, i) => (i / DATES) * YEARS);

for (const [name, exercise, depth] of [
  ['structure_european', 'european', 'second'],
  ['structure_american_first', 'american', 'first'],
  ['structure_american_second', 'american', 'second'],
] as const satisfies readonly (readonly [string, Exercise, Depth])[]) {
  const structure = structureOf(exercise);
  let curves = curvesOnMarket(structure, 0, PRICES, MOMENTS, depth);
  measure(
    name,
    LEGS.length * PRICES.length * DATES,
    ROUNDS,
    () => (curves = curvesOnMarket(structure, 0, PRICES, MOMENTS, depth)),
    () =>
      curves.reduce(
        (sum, one) => sum + one.pnl[200]! + MOVED_GREEKS.reduce((all, greek) => all + one[greek][200]!, 0),
        0,
      ),
  );
}

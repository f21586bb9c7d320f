import { describe, expect, it } from 'vitest';
import type { UniverseRow } from '$lib/state';
import { TOKENS } from '$lib/testing/snapshot';
import {
  deliveriesFigure,
  deliveriesMoving,
  deliveriesOf,
  deliveriesSentence,
  holdDeliveries,
  priceState,
} from './deliveries';
import { HeldRange } from '$lib/charts/figure';

const row = (symbol: string, expires: string | null, price: number | null, iv30: number | null, root = 'AQF') =>
  ({ symbol, root, expires, price, iv30 }) as UniverseRow;
const NOW = Date.parse('2031-03-13T15:45:00Z');
const rows = [
  row('AQFU31', '2031-09-18', 11, 0.28),
  row('AQFJ31', '2031-04-17', 12, 0.35),
  row('AQFH31', '2031-03-12', 13, 0.4),
  row('AQFX31', '2031-11-20', null, 0.4),
  row('WNHJ31', '2031-04-17', 50, 0.3, 'WNH'),
  row('MRX40', null, 4000, 0.2, ''),
];

describe('deliveries', () => {
  const deliveries = deliveriesOf(rows, 'AQF', NOW);
  it('are those of the root that are still to come and have a price, by time', () => {
    expect(deliveries.map(({ symbol }) => symbol)).toEqual(['AQFJ31', 'AQFU31']);
    expect(deliveries[0]!.days).toBeCloseTo(34.84, 2);
  });
  it('fall or rise in price with time, whatever their vols do', () => {
    expect(priceState(deliveries)).toBe('backwardation');
    expect(priceState(deliveries.map((one, i) => ({ ...one, price: 10 + i })))).toBe('contango');
    expect(priceState(deliveries.map((one) => ({ ...one, price: 10 })))).toBe('flat');
    expect(deliveriesSentence(deliveries)).toEqual({
      lead: 'Prices in backwardation:',
      rest: 'AQFU31 stands −8.3 % against AQFJ31. Their vols are in backwardation, 35.0 to 28.0.',
    });
    expect(deliveriesSentence(deliveries.slice(1)).lead).toBe('One delivery only.');
  });
  it('are drawn side by side, prices and vols, the one in view marked', () => {
    const input = { deliveries, ghost: [], root: 'AQF', symbol: 'AQFU31', decimals: 3, tokens: TOKENS };
    const ranges = { x: new HeldRange(), y: new HeldRange(), days: new HeldRange() };
    const figure = deliveriesFigure({ ...input, ranges });
    const lines = figure.data as unknown as { y: number[]; yaxis?: string; marker?: { size: number[] } }[];
    expect(lines[1]!.y).toEqual([12, 11]);
    expect(lines[3]!.y.map((vol) => vol.toFixed(1))).toEqual(['35.0', '28.0']);
    expect(lines[1]!.marker!.size).toEqual([7, 10]);
    expect(figure.table().rows[0]!.slice(0, 2)).toEqual(['AQFJ31', '2031-04-17']);
    // What plays goes farther, and the axes with it; the same lines stand on both pairs of axes.
    const far = deliveries.map((one) => ({ ...one, price: 20, days: 400 }));
    holdDeliveries({ ranges, root: 'AQF' }, far);
    const { layout } = deliveriesFigure({ ...input, ranges });
    expect((layout.yaxis!.range as number[])[1]).toBeGreaterThan(20);
    expect((layout.xaxis2!.range as number[])[1]).toBeGreaterThan(400);
    const { lines: moving } = deliveriesMoving(deliveries, [], TOKENS);
    expect(
      moving.filter(({ y }) => y.length > 0).map(({ y, isBeside }) => [Number(y[0]!.toFixed(6)), isBeside]),
    ).toEqual([
      [12, false],
      [35, true],
    ]);
  });
});

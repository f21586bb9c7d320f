import { describe, expect, it } from 'vitest';
import type { UniverseRow } from '$lib/state';
import { TOKENS } from '$lib/testing/snapshot';
import { deliveriesFigure, deliveriesOf, deliveriesSentence, priceState } from './deliveries';
import { HeldRange } from './figure';

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
    const input = { deliveries, ghost: [], symbol: 'AQFU31', decimals: 3, tokens: TOKENS };
    const figure = deliveriesFigure({ ...input, ranges: { x: new HeldRange(), y: new HeldRange() } });
    const lines = figure.data as unknown as { y: number[]; yaxis?: string; marker?: { size: number[] } }[];
    expect(lines[1]!.y).toEqual([12, 11]);
    expect(lines[3]!.y.map((vol) => vol.toFixed(1))).toEqual(['35.0', '28.0']);
    expect(lines[1]!.marker!.size).toEqual([7, 10]);
    expect(figure.table().rows[0]!.slice(0, 2)).toEqual(['AQFJ31', '2031-04-17']);
  });
});

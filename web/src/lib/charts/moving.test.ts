import { describe, expect, it } from 'vitest';
import { drawMoving } from './moving';

/** Writes down what is drawn. */
function paper() {
  const calls: [string, ...unknown[]][] = [];
  const context = new Proxy({} as CanvasRenderingContext2D, {
    get:
      (_, name: string) =>
      (...args: unknown[]) =>
        calls.push([name, ...args]),
    set: (_, name: string, value) => {
      calls.push([name, value]);
      return true;
    },
  });
  return { context, of: (...names: string[]) => calls.filter(([name]) => names.includes(name)) };
}

const layout = {
  margin: { l: 40, r: 10, t: 20, b: 30 },
  xaxis: { range: [0, 10] },
  yaxis: { range: [10, 30], domain: [0.5, 1] as [number, number] },
};
const size = { width: 250, height: 150 };

describe('what moves', () => {
  it('stands where the axes say, within their part of the height, and breaks where there is nothing', () => {
    const { context, of } = paper();
    const line = { x: [0, 5, 6, 10], y: [10, 20, NaN, 30], color: '#123456', width: 2, isDashed: true };
    drawMoving(context, { lines: [line] }, layout, size, '11px x');
    // 200 pixels for ten units, 50 for twenty from the middle of the height up.
    expect(of('moveTo', 'lineTo')).toEqual([
      ['moveTo', 40, 70],
      ['lineTo', 140, 45],
      ['moveTo', 240, 20],
    ]);
    expect(of('rect')).toEqual([['rect', 40, 20, 200, 50]]);
    expect(of('setLineDash')[0]).toEqual(['setLineDash', [6, 4]]);
  });
  it('has lines on the axes beside, in their part of the width', () => {
    const { context, of } = paper();
    const two = {
      ...layout,
      xaxis: { range: [0, 10], domain: [0, 0.4] as [number, number] },
      yaxis: { range: [10, 30] },
      xaxis2: { range: [0, 1], domain: [0.6, 1] as [number, number] },
      yaxis2: { range: [0, 1] },
    };
    const line = { x: [0, 1], y: [0, 1], color: '#123456', width: 1, isBeside: true };
    drawMoving(context, { lines: [line, { ...line, x: [0, 10], y: [10, 30], isBeside: false }] }, two, size, 'x');
    expect(of('rect')).toEqual([
      ['rect', 40, 20, 80, 100],
      ['rect', 160, 20, 80, 100],
    ]);
    expect(of('moveTo', 'lineTo')).toEqual([
      ['moveTo', 40, 120],
      ['lineTo', 120, 20],
      ['moveTo', 160, 120],
      ['lineTo', 240, 20],
    ]);
  });
  it('follows logarithmic and turned axes', () => {
    const { context, of } = paper();
    const log = { ...layout, xaxis: { type: 'log' as const, range: [3, 1] } };
    drawMoving(
      context,
      { lines: [{ x: [10, 100, 1000], y: [10, 10, 10], color: 'x', width: 1, dots: 3 }] },
      log,
      size,
      'x',
    );
    expect(of('arc').map(([, x]) => x)).toEqual([240, 140, 40]);
  });
  it('fills areas between two lines, and writes beside what stands upright', () => {
    const { context, of } = paper();
    drawMoving(
      context,
      {
        areas: [{ x: [0, 10], low: [10, 10], high: [30, 20], color: 'c', opacity: 0.2 }],
        lines: [],
        uprights: [{ x: 5, color: 'd', text: 'forward' }],
      },
      layout,
      size,
      'x',
    );
    expect(of('lineTo').slice(0, 4)).toEqual([
      ['lineTo', 40, 20],
      ['lineTo', 240, 45],
      ['lineTo', 240, 70],
      ['lineTo', 40, 70],
    ]);
    expect(of('fillText')).toEqual([['fillText', 'forward', 142, 17]]);
  });
});

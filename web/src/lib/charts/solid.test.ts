import { describe, expect, it } from 'vitest';
import {
  blankRaster,
  drawBody,
  drawBodyLines,
  drawBox,
  HALF,
  placeOf,
  roundTicks,
  tickDecimals,
  USUAL_EYE,
  viewOf,
  type Body,
} from './solid';

const size = { width: 200, height: 160 };

/** A level body at a height, red. */
function plate(height: number, colors: [number, number, number] = [200, 0, 0]): Body {
  const [columns, rows] = [5, 4];
  const at = (i: number, count: number) => (2 * i) / (count - 1) - 1;
  return {
    columns,
    rows,
    x: Float64Array.from({ length: columns * rows }, (_, i) => HALF.x * at(i % columns, columns)),
    y: Float64Array.from({ length: columns * rows }, (_, i) => HALF.y * at(Math.floor(i / columns), rows)),
    z: new Float64Array(columns * rows).fill(height),
    colors: Uint8ClampedArray.from({ length: 3 * columns * rows }, (_, i) => colors[i % 3]!),
  };
}

describe('the view of a box', () => {
  it('has the eye where its angles say', () => {
    expect(placeOf({ around: 90, over: 0, away: 2 }).y).toBeCloseTo(2, 12);
    expect(placeOf({ around: 0, over: 90, away: 3 }).z).toBeCloseTo(3, 12);
  });
  it('shows what is near larger, what is up above and what is to the right at the right', () => {
    // From the south, a little over it.
    const view = viewOf({ around: -90, over: 10, away: 2.5 }, size);
    expect(view(0.5, 0, 0).left).toBeGreaterThan(view(-0.5, 0, 0).left);
    expect(view(0, 0, 0.3).top).toBeLessThan(view(0, 0, -0.3).top);
    const width = (y: number) => view(0.5, y, 0).left - view(-0.5, y, 0).left;
    expect(width(-0.5)).toBeGreaterThan(width(0.5));
    expect(view(0, -0.5, 0).near).toBeGreaterThan(view(0, 0.5, 0).near);
    // Nearness is one over the distance along the look: at the middle it is the eye's own.
    expect(1 / view(0, 0, -0.04).near).toBeCloseTo(
      Math.hypot(2.5 * Math.cos(Math.PI / 18), 2.5 * Math.sin(Math.PI / 18) + 0.04),
      9,
    );
  });
  it('draws the nearer of two bodies, whichever comes first, and knows its points', () => {
    const from = { around: -60, over: 60, away: 2.2 };
    const view = viewOf(from, size);
    const [upper, lower] = [plate(0.2), plate(-0.2, [0, 0, 200])];
    for (const order of [
      [upper, lower],
      [lower, upper],
    ]) {
      const raster = blankRaster(size.width, size.height);
      for (const body of order) drawBody(body, view, raster);
      const { left, top } = view(0, 0, 0.2);
      const pixel = Math.round(top) * size.width + Math.round(left);
      const [red, green, blue, opacity] = raster.pixels.slice(4 * pixel, 4 * pixel + 4);
      expect([green, blue, opacity]).toEqual([0, 0, 255]);
      // A level body faces the light by the light's own height.
      expect(Math.abs(red! - 200 * (0.76 + 0.24 * (0.79 / Math.hypot(0.35, 0.5, 0.79))))).toBeLessThan(4);
      const seen = raster.points[pixel]!;
      expect(Math.hypot(upper.x[seen]!, upper.y[seen]!)).toBeLessThan(0.3);
    }
  });
  it('leaves out what has no value, and wipes what is used again', () => {
    const body = plate(0);
    body.z.fill(NaN, 0, body.columns);
    const view = viewOf(USUAL_EYE, size);
    const raster = blankRaster(size.width, size.height);
    drawBody(body, view, raster);
    const { left, top } = view(0, -HALF.y * 0.9, 0);
    expect(raster.points[Math.round(top) * size.width + Math.round(left)]).toBe(-1);
    expect(raster.points.some((point) => point >= 0)).toBe(true);
    expect(blankRaster(size.width, size.height, raster)).toBe(raster);
    expect(raster.points.every((point) => point === -1)).toBe(true);
    expect(blankRaster(10, 10, raster).points).toHaveLength(100);
  });
  it('writes every tick, and hides lines behind the body', () => {
    const texts: string[] = [];
    const path: string[] = [];
    const context = new Proxy({} as CanvasRenderingContext2D, {
      get:
        (_, name: string) =>
        (...args: unknown[]) => {
          if (name === 'fillText') texts.push(String(args[0]));
          if (name === 'moveTo' || name === 'lineTo') path.push(name);
        },
      set: () => true,
    });
    const axis = (title: string) => ({ title, ticks: [{ at: 0, text: `${title} 0` }] });
    const view = viewOf(USUAL_EYE, size);
    drawBox(context, view, USUAL_EYE, { x: axis('x'), y: axis('y'), z: axis('z') }, { line: '', text: '', font: '' });
    expect(texts.sort()).toEqual(['x', 'x 0', 'y', 'y 0', 'z', 'z 0']);
    const raster = blankRaster(size.width, size.height);
    drawBody(plate(0), view, raster);
    const along = (z: number) => [-0.4, -0.2, 0, 0.2].map((x) => ({ x, y: 0, z }));
    const pathOf = (z: number) => {
      path.length = 0;
      drawBodyLines(context, [{ points: along(z), color: '', width: 1 }], view, raster, 1);
      return [...path];
    };
    expect(pathOf(0.05)).toEqual(['moveTo', 'lineTo', 'lineTo', 'lineTo']);
    expect(pathOf(-0.1)).toEqual([]);
  });
});

describe('ticks', () => {
  it('are round, and written with the decimals that tell them apart', () => {
    expect(roundTicks(-3, 3, 5)).toEqual([-2, 0, 2]);
    expect(roundTicks(98, 2, 5)).toEqual([20, 40, 60, 80]);
    expect(roundTicks(0.1, 0.32, 5).map((tick) => tick.toFixed(2))).toEqual(['0.10', '0.15', '0.20', '0.25', '0.30']);
    expect(roundTicks(4, 4, 5)).toEqual([4]);
    expect([tickDecimals([1, 2]), tickDecimals([0, 0.25]), tickDecimals([0, 0.0001]), tickDecimals([5])]).toEqual([
      0, 2, 4, 2,
    ]);
  });
});

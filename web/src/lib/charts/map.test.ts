import { curveVol, GRID_QUANTITIES } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { mapPositions, mapTimes, usedExpiries } from '$lib/film';
import { mapOf } from '$lib/film/map';
import { makeSnapshot, TOKENS } from '$lib/testing/snapshot';
import { axisValue, strikeAt } from './curve-line';
import { HeldRange } from './figure';
import {
  bodyFigure,
  eyeOf,
  heatFigure,
  heatMoving,
  hemmed,
  placeOf,
  QUANTITIES,
  quantityFigure,
  quantityText,
  USUAL_EYE,
  type MapInput,
} from './map';

const snapshot = makeSnapshot();
const expiries = usedExpiries({ expiries: snapshot.slices.map(({ fit }) => fit) });
const positions = mapPositions('standardized', expiries);
const years = mapTimes(expiries);
const request = {
  expiries,
  events: [],
  spot: 100,
  quantity: 'vol' as const,
  side: 'call' as const,
  axis: 'standardized' as const,
  positions,
  years,
};

function inputOf(rows: Float64Array[], more: Partial<MapInput> = {}): MapInput {
  return {
    quantity: 'vol',
    axis: 'standardized',
    axisTitle: 'deviations',
    isDifference: false,
    positions,
    days: years.map((time) => 365 * time),
    rows,
    expiries,
    lit: { at: 0, days: 35 },
    contractAt: (position) => ['2031-04-17', position, 'call'],
    range: new HeldRange(),
    key: 'a',
    tokens: TOKENS,
    ...more,
  };
}

describe('the places of a map', () => {
  it('go from the first expiry to the last, and the last is met', () => {
    expect(365 * years[0]!).toBeCloseTo(expiries[0]!.days, 9);
    expect(years.at(-1)).toBe(expiries.at(-1)!.years);
    expect(mapTimes(expiries.slice(0, 1))).toEqual([expiries[0]!.years]);
    expect(mapTimes([])).toEqual([]);
  });
  it('have high deltas at the left, and strikes around the last forward', () => {
    const deltas = mapPositions('delta', expiries);
    expect([deltas[0], deltas.at(-1)]).toEqual([98, 2]);
    const strikes = mapPositions('strike', expiries);
    expect(Math.sqrt(strikes[0]! * strikes.at(-1)!)).toBeCloseTo(expiries.at(-1)!.forward, 9);
    expect(mapPositions('strike', [])).toEqual([]);
  });
  it('lead back to strikes on every axis', () => {
    const one = expiries[1]!;
    for (const axis of ['strike', 'forward', 'log', 'standardized', 'delta'] as const)
      expect(strikeAt(axis, axisValue(axis, 97, one), one)).toBeCloseTo(97, 7);
  });
});

describe('a map', () => {
  const rows = mapOf(request);
  it('holds the curves of the expiries', () => {
    const last = expiries.at(-1)!;
    const at = positions.findIndex((z) => Math.abs(z + 1) < 1e-9);
    expect(rows.at(-1)![at]).toBeCloseTo(curveVol(last.curve, -last.atmVol * Math.sqrt(last.years)), 9);
  });
  it('is coloured from its least to its most, in per cent, with the focus on it', () => {
    const figure = heatFigure(inputOf(rows));
    const [heat, lit] = figure.data as unknown as { z: number[][]; zmin: number; zmax: number; x: number[] }[];
    const all = heat!.z.flat();
    expect([heat!.zmin, heat!.zmax]).toEqual([Math.min(...all), Math.max(...all)]);
    expect(heat!.z[0]![30]).toBeCloseTo(100 * rows[0]![30]!, 12);
    expect(lit!.x).toEqual([0]);
    expect(figure.table().rows).toHaveLength(rows.length * positions.length);
  });
  it('of differences has nothing in the middle of its colours', () => {
    const change = rows.map((row) => row.map((_, j) => (j < 5 ? -0.01 : 0.002)));
    const [heat] = heatFigure(inputOf(change, { isDifference: true })).data as unknown as {
      zmin: number;
      zmax: number;
    }[];
    expect([heat!.zmin, heat!.zmax]).toEqual([-1, 1]);
  });
  it('moves in the same colours, with nothing where there is nothing', () => {
    const holes = rows.map((row) => row.map((value, j) => (j === 3 ? NaN : value)));
    const { image } = heatMoving(inputOf(holes));
    expect([image!.columns, image!.rows]).toEqual([positions.length, years.length]);
    expect([image!.pixels[4 * 3 + 3], image!.pixels[4 * 4 + 3]]).toEqual([0, 255]);
    const flat = holes.flatMap((row) => [...row]);
    const least = flat.indexOf(Math.min(...flat.filter(Number.isFinite)));
    // The first of the depths.
    expect([...image!.pixels.slice(4 * least, 4 * least + 3)]).toEqual([0xb9, 0x7a, 0x00]);
  });
  it('as a body is hemmed at its last values, and turned by its eye', () => {
    expect(
      hemmed(
        [1, 2, 3, 4],
        [
          [null, 5, 6, null],
          [7, 8, null, null],
        ],
      ),
    ).toEqual({
      x: [
        [2, 2, 3, 3],
        [1, 2, 2, 2],
      ],
      z: [
        [5, 5, 6, 6],
        [7, 8, 8, 8],
      ],
    });
    const { layout } = bodyFigure(inputOf(rows), USUAL_EYE);
    const eye = eyeOf((layout.scene as { camera: { eye: { x: number; y: number; z: number } } }).camera.eye);
    for (const part of ['around', 'over', 'away'] as const) expect(eye[part]).toBeCloseTo(USUAL_EYE[part], 9);
    expect(placeOf({ around: 90, over: 0, away: 2 }).y).toBeCloseTo(2, 12);
  });
  it('by strike draws calls and puts of every expiry', () => {
    const times = expiries.map((one) => one.years);
    const calls = mapOf({ ...request, quantity: 'delta', years: times });
    const puts = mapOf({ ...request, quantity: 'delta', side: 'put', years: times });
    const input = {
      ...{ quantity: 'delta' as const, axis: 'standardized' as const, positions, expiries, calls, puts },
      ...{ litExpiry: '2031-04-17', litAt: 0, tokens: TOKENS, ranges: { x: new HeldRange(), y: new HeldRange() } },
      key: 'a',
    };
    const { data, table } = quantityFigure(input);
    const lines = data as unknown as { y: number[]; line: { dash: string; width: number } }[];
    expect(lines.map(({ line }) => line.dash)).toEqual(['solid', 'solid', 'solid', 'dash', 'dash', 'dash']);
    // Of one strike they differ by what a unit of the underlying is worth today.
    const apart = lines[1]!.y.map((call, j) => call - lines[4]!.y[j]!);
    for (const value of apart) expect(value).toBeCloseTo(apart[0]!, 9);
    expect(table().rows).toHaveLength(6 * positions.length);
  });
  it('writes every quantity with figures that show something', () => {
    expect(quantityText('vol', 0.18912)).toBe('18.91');
    expect(quantityText('gamma', 0.001757)).toBe('0.00176');
    expect(quantityText('delta', -0.46, true)).toBe('−0.460');
    expect(quantityText('vol', NaN)).toBe('–');
    for (const quantity of GRID_QUANTITIES) expect(QUANTITIES[quantity].name).not.toBe('');
  });
});

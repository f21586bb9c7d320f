import { curveVol, GRID_QUANTITIES } from '@umwelt/core';
import { describe, expect, it } from 'vitest';
import { mapPositions, mapReach, mapTimes, usedExpiries } from '$lib/film';
import { figures } from '$lib/formats';
import { extentOf, mapOf } from '$lib/film/map';
import { makeSnapshot, TOKENS } from '$lib/testing/snapshot';
import { axisValue, strikeAt } from './curve-line';
import { HeldRange } from '$lib/charts/figure';
import {
  axisText,
  heatFigure,
  heatMoving,
  hemmed,
  QUANTITIES,
  quantityFigure,
  quantityText,
  solidOf,
  type MapInput,
} from './map';
import { HALF } from '$lib/charts/solid';

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
    reach: null,
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
  it('as a body is hemmed at its last values, along edges that run smoothly', () => {
    const two = hemmed(
      [1, 2, 3, 4],
      [
        [NaN, 5, 6, NaN],
        [7, 8, NaN, NaN],
      ],
    );
    expect(two).toEqual({
      x: [
        [2, 2, 3, 3],
        [1, 2, 2, 2],
      ],
      z: [
        [5, 5, 6, 6],
        [7, 8, 8, 8],
      ],
    });
    // A step of the edge becomes a slope that stays within the values.
    const places = [0, 1, 2, 3, 4, 5];
    const steps = [3, 3, 3, 0, 0, 0].map((from) => places.map((place) => (place < from ? NaN : 10 * place)));
    const { x, z } = hemmed(places, steps);
    const edge = x.map((row) => row[0]!);
    expect(edge[0]).toBe(3);
    expect(edge.at(-1)).toBe(0);
    edge.forEach((place, i) => {
      expect(place).toBeGreaterThanOrEqual([3, 3, 3, 0, 0, 0][i]!);
      expect(z[i]![0]).toBeCloseTo(10 * place, 9);
    });
    expect(edge[3]).toBeCloseTo(2, 3);
    expect(edge[4]).toBeCloseTo(1, 3);
  });
  it('is a body in its box, coloured by its values, with the expiries across it', () => {
    const input = inputOf(rows);
    const { body, axes, lines, textAt, contractAt } = solidOf(input, '2031-04-17');
    const all = rows.flatMap((row) => [...row]);
    const [least, most] = [all.indexOf(Math.min(...all)), all.indexOf(Math.max(...all))];
    expect([body.z[least], body.z[most]]).toEqual([-HALF.z, HALF.z]);
    expect([body.x[0], body.x.at(-1), body.y[0], body.y.at(-1)]).toEqual([-HALF.x, HALF.x, -HALF.y, HALF.y]);
    expect([...body.colors.slice(3 * least, 3 * least + 3)]).toEqual([0xb9, 0x7a, 0x00]);
    expect(lines).toHaveLength(expiries.length);
    // The line of the last expiry is the last row of the body, and what it says is the value there.
    const end = lines.at(-1)!.points.at(-1)!;
    expect([end.x, end.y, end.z]).toEqual([body.x.at(-1), body.y.at(-1), body.z.at(-1)]);
    expect(lines.map(({ width }) => width)).toEqual([0.7, 2, 0.7]);
    expect(textAt(all.length - 1)).toBe(
      `${axisText('standardized', positions.at(-1)!)} · ${figures.days(365 * years.at(-1)!)} days<br>vol ${quantityText('vol', all.at(-1)!)} %`,
    );
    expect(contractAt(2)).toEqual(['2031-04-17', positions[2], 'call']);
    expect(axes.z.title).toBe('vol, %');
    expect(axes.x.ticks.map(({ text }) => text)).toEqual(['−2', '0', '2']);
  });
  it('is held while it plays: as far as all moments go, and their values', () => {
    const frame = {
      symbol: 'TEST',
      asof: '',
      instant: 0,
      expiries: expiries.map((one) => ({ ...one, lowest: 1, highest: 2 })),
    };
    const far = { ...frame, expiries: frame.expiries.slice(0, 1) };
    const reach = mapReach('strike', [far, frame])!;
    const strikes = mapPositions('strike', expiries);
    expect(reach).toEqual({
      positions: [strikes[0], strikes.at(-1)],
      days: [expiries[0]!.days, expiries.at(-1)!.days],
    });
    expect(mapReach('delta', [frame])!.positions).toEqual([98, 2]);
    expect(mapReach('strike', [{ ...frame, expiries: [] }])).toBeNull();
    const [low, high] = extentOf([frame], { quantity: 'vol', axis: 'standardized', sides: ['call'], spots: null })!;
    const all = rows.flatMap((row) => [...row]).sort((a, b) => a - b);
    expect(low).toBeGreaterThanOrEqual(all[0]!);
    expect(high).toBeLessThanOrEqual(all.at(-1)!);
    expect(high - low).toBeGreaterThan(0.95 * (all.at(-1)! - all[0]!));
    expect(extentOf([], { quantity: 'vol', axis: 'strike', sides: ['call'], spots: null })).toBeNull();
    const { layout } = heatFigure(inputOf(rows, { reach: { positions: [-9, 9], days: [1, 1000] } }));
    expect([layout.xaxis!.range, layout.yaxis!.range]).toEqual([
      [-9, 9],
      [0, 3],
    ]);
  });
  it('by strike draws calls and puts of every expiry', () => {
    const times = expiries.map((one) => one.years);
    const calls = mapOf({ ...request, quantity: 'delta', years: times });
    const puts = mapOf({ ...request, quantity: 'delta', side: 'put', years: times });
    const input = {
      ...{ quantity: 'delta' as const, axis: 'standardized' as const, positions, expiries, calls, puts },
      ...{ litExpiry: '2031-04-17', litAt: 0, tokens: TOKENS, ranges: { x: new HeldRange(), y: new HeldRange() } },
      key: 'a',
      reach: null,
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

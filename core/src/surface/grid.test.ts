import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { priceContract } from '../models';
import {
  callDelta,
  curveVol,
  GRID_QUANTITIES,
  naturalCurve,
  surfaceGrid,
  surfaceOf,
  termsAt,
  type GridRequest,
} from '.';

const near = naturalCurve({ theta: 0.004, rho: -0.5, phi: 9 }, 0.1, 100.2);
const far = naturalCurve({ theta: 0.02, rho: -0.5, phi: 5 }, 0.5, 101);
const terms = [
  { years: 0.1, forward: 100.2, rate: 0.03 },
  { years: 0.5, forward: 101, rate: 0.04 },
];
const request: GridRequest = {
  surface: surfaceOf([near, far]),
  terms,
  spot: 100,
  quantity: 'vol',
  side: 'call',
  axis: 'strike',
  positions: [90, 100, 110],
  years: [0.1, 0.5],
};

describe('terms between expiries', () => {
  it('the forward grows evenly, and the rate goes from one to the other, by hand', () => {
    const half = termsAt(terms, 100, 0.3);
    expect(half.forward).toBeCloseTo(Math.sqrt(100.2 * 101), 10);
    expect(half.rate).toBeCloseTo(0.035, 12);
    expect(termsAt(terms, 100, 0.05).forward).toBeCloseTo(Math.sqrt(100 * 100.2), 10);
    expect(termsAt(terms, 100, 0.05).rate).toBe(0.03);
    expect(termsAt(terms, null, 0.05).forward).toBeCloseTo(100.2, 10);
    // Behind the last one the drift of the last stretch goes on.
    expect(termsAt(terms, 100, 0.9).forward).toBeCloseTo(101 * (101 / 100.2), 9);
    expect(termsAt(terms, 100, 0.9).rate).toBe(0.04);
    expect(termsAt([terms[0]!], 100, 0.1)).toEqual(terms[0]);
  });
});

describe('a grid of a surface', () => {
  it('is the curve of an expiry at its time, on every axis', () => {
    const deviation = curveVol(near, 0) * Math.sqrt(0.1);
    const strike = 96;
    const k = Math.log(strike / 100.2);
    const places = {
      strike,
      forward: (100 * strike) / 100.2,
      log: k,
      standardized: k / deviation,
      delta: 100 * callDelta(near, k),
    };
    for (const [axis, position] of Object.entries(places)) {
      const [row] = surfaceGrid({ ...request, axis: axis as 'strike', positions: [position], years: [0.1] });
      expect(row![0]).toBeCloseTo(curveVol(near, k), 10);
    }
  });

  it('has the prices and Greeks of contracts with its vols, on spot and on forwards', () => {
    for (const side of ['call', 'put'] as const) {
      const vol = curveVol(far, Math.log(110 / 101));
      const common = { side, strike: 110, years: 0.5, rate: 0.04, vol };
      const carryYield = 0.04 - Math.log(1.01) / 0.5;
      const onSpot = priceContract({ model: 'black-scholes-merton', spot: 100, yield: carryYield, ...common });
      const onForward = priceContract({ model: 'black-76', forward: 101, ...common });
      for (const quantity of ['price', 'delta', 'gamma', 'theta', 'vega', 'rho', 'vanna', 'volga', 'charm'] as const) {
        expect(surfaceGrid({ ...request, quantity, side })[1]![2]).toBeCloseTo(onSpot[quantity], 9);
        expect(surfaceGrid({ ...request, quantity, side, spot: null })[1]![2]).toBeCloseTo(onForward[quantity], 9);
      }
    }
  });

  it('total variance, density and what lies under belong together', () => {
    const positions = Float64Array.from({ length: 4001 }, (_, i) => -0.5 + i * 0.00025);
    const of = (quantity: 'density' | 'cumulative' | 'variance') =>
      surfaceGrid({ ...request, axis: 'log', quantity, positions, years: [0.3] })[0]!;
    const density = of('density');
    const under = of('cumulative');
    const [from, to] = [under.findIndex(Number.isFinite), under.findLastIndex(Number.isFinite)];
    expect(under[to]! - under[from]!).toBeGreaterThan(0.99);
    let between = 0;
    for (let i = from; i < to; i++) between += 0.5 * 0.00025 * (density[i]! + density[i + 1]!);
    expect(between).toBeCloseTo(under[to]! - under[from]!, 7);
    const vol = surfaceGrid({ ...request, axis: 'log', positions, years: [0.3] })[0]!;
    expect(of('variance')[2000]).toBeCloseTo(vol[2000]! ** 2 * 0.3, 12);
  });

  it('leaves out what is too far, and is nothing without expiries', () => {
    const [row] = surfaceGrid({ ...request, axis: 'standardized', positions: [-5, -4, 4, 5], years: [0.2] });
    expect([...row!].map(Number.isFinite)).toEqual([false, true, true, false]);
    expect(() => surfaceGrid({ ...request, terms: [] })).toThrow(RangeError);
    expect(() => surfaceGrid({ ...request, surface: surfaceOf([]) })).toThrow(RangeError);
  });

  it('settles on every delta of steep curves, and deltas fall with the strike', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.85, max: 0.85, noNaN: true }),
        fc.double({ min: 0.02, max: 1.2, noNaN: true }),
        fc.double({ min: 0.0005, max: 0.3, noNaN: true }),
        (rho, steepness, theta) => {
          const curve = naturalCurve({ theta, rho, phi: steepness / Math.sqrt(theta) }, 0.25, 100);
          const positions = [95, 75, 50, 25, 5];
          const input = { ...request, surface: surfaceOf([curve]), axis: 'delta' as const, positions, years: [0.25] };
          const [vols] = surfaceGrid(input);
          vols!.forEach((vol, i) => {
            if (!Number.isFinite(vol)) return;
            const under = surfaceGrid({ ...input, quantity: 'cumulative' })[0]![i]!;
            expect(under).toBeGreaterThanOrEqual(-1e-9);
            expect(vol).toBeGreaterThan(0);
          });
          const cumulative = surfaceGrid({ ...input, quantity: 'cumulative' })[0]!.filter(Number.isFinite);
          for (let i = 1; i < cumulative.length; i++) expect(cumulative[i]).toBeGreaterThan(cumulative[i - 1]! - 1e-9);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('knows all its quantities', () => {
    for (const quantity of GRID_QUANTITIES)
      expect(surfaceGrid({ ...request, quantity })[0]![1]).toEqual(expect.any(Number));
  });
});

/** Raw SVI fitted to slices of 41 strikes without noise, and whole surfaces without arbitrage. */
import {
  curveVol,
  fitCurve,
  fitPoints,
  fitRawSvi,
  naturalCurve,
  SVI_FIT_LENGTH,
  withoutCalendarArbitrage,
} from '../src';
import { measure, SplitMix64 } from './measure';

const SLICES = 2000;
const STRIKES = 41;
const random = new SplitMix64(4);
const k = new Float64Array(SLICES * STRIKES);
const w = new Float64Array(SLICES * STRIKES);
for (let slice = 0; slice < SLICES; slice++) {
  const most = (40 + random.pick(61)) / 100;
  const b = (20 + random.pick(281)) / 1000;
  const rho = (random.pick(1201) - 900) / 1000;
  const m = (random.pick(201) - 100) / 1000;
  const sigma = (50 + random.pick(251)) / 1000;
  const low = (2 + random.pick(99)) / 1000;
  const a = low - b * sigma * Math.sqrt(1 - rho * rho);
  for (let i = 0; i < STRIKES; i++) {
    const at = slice * STRIKES + i;
    k[at] = (most * (i - 20)) / 20;
    const x = k[at]! - m;
    w[at] = a + b * (rho * x + Math.sqrt(x * x + sigma * sigma));
  }
}
const weight = new Float64Array(SLICES * STRIKES).fill(1);
const out = new Float64Array(SLICES * SVI_FIT_LENGTH);

function fitAll(): void {
  for (let slice = 0; slice < SLICES; slice++) {
    fitRawSvi({ k, w, weight, from: slice * STRIKES, count: STRIKES }, out, slice * SVI_FIT_LENGTH);
  }
}

function sum(): number {
  let total = 0;
  for (let at = 0; at < out.length; at += SVI_FIT_LENGTH) {
    for (let i = 0; i < 5; i++) total += (i + 1) * out[at + i]!;
  }
  return total;
}

measure('svi_fit_core', SLICES, 30, fitAll, sum);

/** A surface of 20 expiries with 60 strikes each, quoted with noise within the spread: some wings cross. */
const EXPIRIES = 20;
const QUOTED = 60;
const SURFACES = 20;
const surfaces = Array.from({ length: SURFACES }, () =>
  Array.from({ length: EXPIRIES }, (_, e) => {
    const years = (7 + 25 * e) / 365;
    const theta = (0.035 + random.pick(100) / 2e5) * years;
    const curve = naturalCurve({ theta, rho: -0.5, phi: 0.8 / Math.sqrt(theta) }, years, 100);
    const points = Array.from({ length: QUOTED }, (_, i) => Math.sqrt(theta) * (-3.5 + (6 * i) / (QUOTED - 1)));
    return {
      years,
      given: {
        logMoneyness: points,
        vol: points.map((at) => curveVol(curve, at) + (random.pick(201) - 100) / 4e4),
        halfSpread: points.map(() => 0.004),
        count: QUOTED,
      },
    };
  }),
);
let curves = 0;
measure(
  'surface_fit_core',
  SURFACES,
  10,
  () => {
    curves = 0;
    for (const surface of surfaces) {
      const fitted = surface.map(({ given, years }) => ({
        points: fitPoints(given, years),
        curve: fitCurve(given, years, 100)!.curve,
        shape: 'own' as const,
      }));
      for (const { curve } of withoutCalendarArbitrage(fitted)) curves += curveVol(curve, 0);
    }
  },
  () => curves,
);

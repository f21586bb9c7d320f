import { curveVol, maturityMeasures, normalCdf, type Curve } from '@umwelt/core';
import type { Data, Layout } from 'plotly.js';
import type { CurveExpiry } from '$lib/film';
import { figures, shortExpiry } from '$lib/formats';
import { type Axis, type SkewScale } from '../params';
import type { Tokens } from '$lib/ui/theme.svelte';
import { upright, type CurveLine, type Drawable } from './curve-line';
import { MONO } from '$lib/charts/figure';

/** The curves of another underlying at the same moment. */
export interface Beside {
  symbol: string;
  /** Its position among those that are compared, which its colour depends on: one that is missing shifts no other. */
  at: number;
  expiries: readonly (CurveExpiry & { curve: Curve })[];
  /** Whether it is the inverse of the one in view, so that its skew is drawn turned round. */
  isMirrored: boolean;
}

const POINTS = 61;
const MOST_DEVIATIONS = 4;

/** The expiry of another underlying that is nearest in time. */
export function nearestExpiry({ expiries }: Pick<Beside, 'expiries'>, days: number): Beside['expiries'][number] | null {
  let nearest = expiries[0] ?? null;
  for (const one of expiries) if (Math.abs(one.days - days) < Math.abs(nearest!.days - days)) nearest = one;
  return nearest;
}

/**
 * The skew of another underlying on the axes of the one in view: at the same moneyness, so that a strike is where it stands
 * at as many per cent of the forward; mirrored, a strike over the forward is one under it.
 */
export function besideLine(
  other: Drawable & { lowest: number; highest: number; curve: Curve },
  own: Drawable,
  isMirrored: boolean,
  axis: Axis,
  scale: SkewScale,
): CurveLine {
  const turn = isMirrored ? -1 : 1;
  const { forward, atmVol, years, curve } = other;
  const reach = MOST_DEVIATIONS * atmVol * Math.sqrt(years);
  const ends = [other.lowest, other.highest].map((strike) => turn * Math.log(strike / forward));
  const from = Math.max(Math.min(...ends), -reach);
  const to = Math.min(Math.max(...ends), reach);
  const x: number[] = [];
  const y: number[] = [];
  for (let i = 0; i < POINTS; i++) {
    const k = from + ((to - from) * i) / (POINTS - 1);
    const vol = curveVol(curve, turn * k);
    const deviation = vol * Math.sqrt(years);
    x.push(
      {
        strike: own.forward * Math.exp(k),
        forward: 100 * Math.exp(k),
        log: k,
        standardized: k / (atmVol * Math.sqrt(years)),
        delta: 100 * normalCdf(-k / deviation + 0.5 * deviation),
      }[axis],
    );
    y.push(upright(scale, vol, other));
  }
  return { x, y };
}

/** Colours of the underlyings beside, which are told by their names too. */
export function besideColor(at: number, tokens: Tokens): string {
  return [tokens.loss, tokens.gain, tokens.ink, tokens.realized][at % 4]!;
}

/** The skew of another underlying as it is drawn. */
interface BesideSkew extends CurveLine {
  symbol: string;
  isMirrored: boolean;
  expiry: Beside['expiries'][number];
  color: string;
}

/** The skews of other underlyings, each of its expiry nearest in time. */
export function besideSkews(
  beside: readonly Beside[],
  own: Drawable & { days: number },
  axis: Axis,
  scale: SkewScale,
  tokens: Tokens,
): BesideSkew[] {
  return beside.flatMap(({ symbol, at, isMirrored, ...held }) => {
    const expiry = nearestExpiry(held, own.days);
    if (!expiry) return [];
    const line = besideLine(expiry, own, isMirrored, axis, scale);
    return [{ ...line, symbol, isMirrored, expiry, color: besideColor(at, tokens) }];
  });
}

/** Their lines. */
export function besideTraces(skews: readonly BesideSkew[]): Data[] {
  return skews.map(({ symbol, isMirrored, expiry, x, y, color }) => ({
    type: 'scatter',
    mode: 'lines',
    x,
    y,
    line: { color, width: 1.8, dash: 'dashdot' },
    hovertemplate: `${symbol}${isMirrored ? ', mirrored' : ''} ${shortExpiry(expiry)}, ${figures.days(expiry.days)} days<br>%{y:.2f}<extra></extra>`,
  }));
}

/** Their names, where the lines begin. */
export function besideNames(skews: readonly BesideSkew[]): Layout['annotations'] {
  return skews.map(
    ({ symbol, x, y, color }) =>
      ({
        x: x[0],
        y: y[0],
        xanchor: 'left',
        yanchor: 'bottom',
        showarrow: false,
        text: symbol,
        font: { family: MONO, size: 11, color },
      }) as Layout['annotations'][number],
  );
}

/** Where another underlying's vol and lean stand against those of an expiry, at its time. */
export interface Compared {
  symbol: string;
  isMirrored: boolean;
  atmVol: number;
  riskReversal25: number;
}

/** Measures of the others at the time of an expiry, mirrored where they are its inverse. */
export function comparedAt(beside: readonly Beside[], { years }: Pick<Drawable, 'years'>): Compared[] {
  return beside.map(({ symbol, expiries, isMirrored }) => {
    const { atmVol, riskReversal25 } = maturityMeasures(expiries, years);
    return { symbol, isMirrored, atmVol, riskReversal25: (isMirrored ? -1 : 1) * riskReversal25 };
  });
}

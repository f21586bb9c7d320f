import { mapFields, orNaN, PAST_NUMBERS, type Curve, type ExpiryFit } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';

type Answer = z.infer<typeof schemas.CurvesResponse>;

type PastNumber = (typeof PAST_NUMBERS)[number];

/** What is known of an expiry without its quotes. */
export type CurveExpiry = Pick<
  ExpiryFit,
  | 'expiry'
  | 'settlement'
  | 'years'
  | 'days'
  | 'sessions'
  | 'rate'
  | 'curve'
  | PastNumber
  | 'contracts'
  | 'usable'
  | 'expiryAside'
> & {
  /** The first and the last strike that are listed. */
  lowest: number;
  highest: number;
  /** Listed strikes around the forward, where they were asked for. */
  near?: readonly number[] | null;
  borrowed?: ExpiryFit['borrowed'];
  /** Of snapshots alone. */
  atmVolUncertainty?: number;
  riskReversal25Uncertainty?: number;
  straddleUncertainty?: number;
  shape?: ExpiryFit['shape'];
  /** Symbol and expiry of a curve that is not its own, where no more is known of it. */
  borrowedFrom?: string | null;
};

/** An expiry as curves and snapshots know it both. */
export type KnownExpiry = Omit<CurveExpiry, 'lowest' | 'highest' | 'near'>;

/** The curves of an underlying at one moment. */
export interface Frame {
  symbol: string;
  asof: string;
  instant: number;
  /** By time to expiry. */
  expiries: CurveExpiry[];
}

function curveAtRow({ kind, parameters, years, forward }: Answer['expiries'], i: number): Curve | null {
  const values = parameters[i];
  const name = kind[i];
  return name && values ? { kind: name, years: years[i]!, forward: orNaN(forward[i]), parameters: values } : null;
}

/** Frames of the API's columns. */
export function framesOfAnswer({ symbol, moments, expiries: columns }: Answer): Frame[] {
  const frames = moments.map((asof): Frame => ({ symbol, asof, instant: Date.parse(asof), expiries: [] }));
  columns.moment.forEach((moment, i) => {
    frames[moment]!.expiries.push({
      expiry: columns.expiry[i]!,
      settlement: columns.settlement[i]!,
      years: columns.years[i]!,
      days: columns.days[i]!,
      sessions: columns.sessions[i]!,
      rate: columns.rate[i]!,
      curve: curveAtRow(columns, i),
      ...mapFields<PastNumber, (number | null)[], number>(columns, PAST_NUMBERS, (values) => orNaN(values[i])),
      contracts: columns.contracts[i]!,
      usable: columns.usable[i]!,
      expiryAside: columns.expiryAside[i]!,
      borrowedFrom: columns.borrowedFrom[i] ?? null,
      lowest: orNaN(columns.lowest[i]),
      highest: orNaN(columns.highest[i]),
      near: columns.near[i] ?? null,
    });
  });
  return frames;
}

/** The expiries of a moment that a surface is made of. */
export function usedExpiries<T extends Pick<CurveExpiry, 'curve' | 'years' | 'expiryAside'>>({
  expiries,
}: {
  expiries: readonly T[];
}): (T & { curve: Curve })[] {
  return expiries.filter(
    (one): one is T & { curve: Curve } => one.curve !== null && one.years > 0 && one.expiryAside === null,
  );
}

/** Positions in the order in which they are wanted: from the one in view on to the end, then back to the start. */
export function loadingOrder(count: number, at: number): number[] {
  const from = Math.max(0, Math.min(at, count));
  const ahead = Array.from({ length: count - from }, (_, i) => from + i);
  const behind = Array.from({ length: from }, (_, i) => from - 1 - i);
  return [...ahead, ...behind];
}

import * as Comlink from 'comlink';
import { hedgedHistory, type BarColumns, type HedgedHistory, type HedgedPast, type HedgeRule } from '@umwelt/core';
import { forecastsOf, type Forecasts } from './forecasts';
import type { Frame } from './frame';
import { extentOf, mapOf, type ExtentRequest, type MapRequest } from './map';
import { pairsOverTime, type PairPast, type PairPlace } from './pairs';
import { pastMoment, skewBand, termBand, type Band, type PastMoment, type SkewBandRequest } from './past';

/** Holds the curves of one underlying's past, says what was usual in it, and reads surfaces, off the page's thread. */
const held = new Map<string, PastMoment>();

const ofSessions = (asofs: readonly string[]) => asofs.flatMap((asof) => held.get(asof) ?? []);

const worker = {
  add(frames: Frame[]): void {
    for (const frame of frames) held.set(frame.asof, pastMoment(frame));
  },

  forget(): void {
    held.clear();
  },

  skewBand: (asofs: string[], request: SkewBandRequest): Band => skewBand(ofSessions(asofs), request),

  termBand: (asofs: string[], days: Float64Array, now: Float64Array): Band => termBand(ofSessions(asofs), days, now),

  pairs: (asofs: string[], place: PairPlace): PairPast => pairsOverTime(ofSessions(asofs), place),

  extent: (asofs: string[], request: ExtentRequest) =>
    extentOf(
      ofSessions(asofs).map(({ frame }) => frame),
      request,
    ),

  hedged: (past: HedgedPast, rule: HedgeRule): HedgedHistory | null => hedgedHistory(past, rule),

  forecasts: (bars: BarColumns, sessions: number): Forecasts => forecastsOf(bars, sessions),

  maps: (requests: MapRequest[]): Float64Array[][] => requests.map(mapOf),
};

export type FilmWorker = typeof worker;

Comlink.expose(worker);

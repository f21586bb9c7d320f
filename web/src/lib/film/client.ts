import * as Comlink from 'comlink';
import type { Frame } from './frame';
import type { ExtentRequest, MapRequest } from './map';
import type { PairPast, PairPlace } from './pairs';
import type { Band, SkewBandRequest } from './past';
import type { BarColumns, HedgedHistory, HedgedPast, HedgeRule } from '@umwelt/core';
import type { Forecasts } from './forecasts';
import type { FilmWorker } from './film.worker';

let remote: Comlink.Remote<FilmWorker> | null = null;

function filmWorker(): Comlink.Remote<FilmWorker> {
  remote ??= Comlink.wrap<FilmWorker>(
    new Worker(new URL('./film.worker.ts', import.meta.url), { type: 'module', name: 'film' }),
  );
  return remote;
}

/** Hands frames to the worker, of one underlying only. */
export function addToPast(frames: Frame[]): void {
  void filmWorker().add(frames);
}

/** Lets the worker forget, after the data or the underlying have changed. */
export function forgetPast(): void {
  void remote?.forget();
}

/** The band of the skews of a maturity over some sessions. */
export const skewBandOf = (asofs: string[], request: SkewBandRequest): Promise<Band> =>
  filmWorker().skewBand(asofs, request);

/** The band of the vols at the money over some sessions, by days. */
export const termBandOf = (asofs: string[], days: Float64Array, now: Float64Array): Promise<Band> =>
  filmWorker().termBand(asofs, days, now);

/** Surfaces read over strikes and times, a map for each request. */
export const mapsOf = (requests: MapRequest[]): Promise<Float64Array[][]> => filmWorker().maps(requests);

/** From where to where the values of maps of some moments go. */
export const extentOf = (asofs: string[], request: ExtentRequest): Promise<[number, number] | null> =>
  filmWorker().extent(asofs, request);

/** What models expect of the sessions ahead. */
export const forecastOf = (bars: BarColumns, sessions: number): Promise<Forecasts> =>
  filmWorker().forecasts(bars, sessions);

/** A pair of strikes followed over some sessions. */
export const pairsOf = (asofs: string[], place: PairPlace): Promise<PairPast> => filmWorker().pairs(asofs, place);

/** What hedging a structure would have brought. */
export const hedgedOf = (past: HedgedPast, rule: HedgeRule): Promise<HedgedHistory | null> =>
  filmWorker().hedged(past, rule);

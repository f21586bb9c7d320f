import { defineParams, numberIn, oneOf } from '$lib/address/params';

/** Up to the moment in view since all legs were listed, or from it on until they end. */
export const STRETCHES = ['until', 'from'] as const;
export type Stretch = (typeof STRETCHES)[number];

/** When the underlying is traded. */
export const REHEDGES = ['session', 'moment', 'band'] as const;
export type Rehedge = (typeof REHEDGES)[number];

/** Whose vol delta is told by. */
export const HEDGE_VOLS = ['own', 'curve', 'forecast', 'fixed'] as const;
export type HedgeVol = (typeof HEDGE_VOLS)[number];

export const WORTHS = ['mid', 'curve'] as const;
export const ENTRIES = ['worst', 'mid', 'best'] as const;
export type Entry = (typeof ENTRIES)[number];

/** More is no band, no vol and no cost. */
export const MOST_BAND = 1e9;
export const VOL_RANGE = [1, 500] as const;
export const MOST_COST = 500;

export interface HedgedParams {
  stretch: Stretch;
  rehedge: Rehedge;
  /** How far the delta of the position may be off before it is traded. */
  hedgeBand: number;
  hedgeVol: HedgeVol;
  /** In per cent. */
  fixedVol: number;
  worth: (typeof WORTHS)[number];
  /** Of trading the underlying, in hundredths of a per cent of its price. */
  hedgeCost: number;
  entered: Entry;
}

/** How a hedged past is told: of all views that have it. */
export const HEDGED_PARAMS = defineParams<HedgedParams>({
  stretch: oneOf('stretch', STRETCHES, 'until'),
  rehedge: oneOf('rehedge', REHEDGES, 'session'),
  hedgeBand: numberIn('hedgeband', [0, MOST_BAND], 10),
  hedgeVol: oneOf('hedgevol', HEDGE_VOLS, 'own'),
  fixedVol: numberIn('hedgefixed', VOL_RANGE, 20),
  worth: oneOf('hedgeworth', WORTHS, 'mid'),
  hedgeCost: numberIn('hedgecost', [0, MOST_COST], 0),
  entered: oneOf('hedgeentry', ENTRIES, 'mid'),
});

import { fitGarch, forecastBy, garchVol, logReturns, type BarColumns, type Garch } from '@umwelt/core';

/** What models expect of the sessions ahead: vols of a year as decimals, NaN where too little is held. */
export interface Forecasts {
  /** Sessions ahead. */
  sessions: number;
  /** Bars that they are made of. */
  bars: number;
  ewma: number;
  garch: number;
  har: number;
  /** What was fitted; null where too little is held. */
  fit: Pick<Garch, 'alpha' | 'beta'> | null;
}

/**
 * Forecasts over some sessions from bars that are known.
 *
 * @param sessions the horizon
 */
export function forecastsOf(bars: BarColumns, sessions: number): Forecasts {
  const garch = fitGarch(logReturns(bars.close));
  return {
    sessions,
    bars: bars.close.length,
    ewma: forecastBy('ewma', bars)(sessions),
    garch: garch ? garchVol(garch, sessions) : NaN,
    har: forecastBy('har', bars)(sessions),
    fit: garch && { alpha: garch.alpha, beta: garch.beta },
  };
}

import {
  ewmaVol,
  fitGarch,
  fitHar,
  garchVol,
  harVol,
  logReturns,
  sessionVariances,
  type BarColumns,
} from '../realized';

/** How a vol of one's own is forecast, where it is not typed. */
export const OWN_MODELS = ['ewma', 'garch', 'har'] as const;
export type OwnModel = (typeof OWN_MODELS)[number];

/**
 * The vol that one believes of the sessions ahead: typed, or forecast from bars.
 *
 * @param by a model, or a vol as a decimal
 * @returns by sessions ahead; NaN where too few bars are held
 */
export function ownVolBy(by: OwnModel | number, bars: BarColumns): (sessions: number) => number {
  if (typeof by === 'number') return () => by;
  const returns = logReturns(bars.close);
  switch (by) {
    case 'ewma': {
      const vol = ewmaVol(returns);
      return () => vol;
    }
    case 'garch': {
      const garch = fitGarch(returns);
      return (sessions) => (garch ? garchVol(garch, Math.max(1, sessions)) : NaN);
    }
    case 'har': {
      const variances = sessionVariances(bars);
      return (sessions) => {
        const ahead = Math.max(1, Math.round(sessions));
        const har = fitHar(variances, ahead);
        return har ? harVol(har, variances) : NaN;
      };
    }
  }
}

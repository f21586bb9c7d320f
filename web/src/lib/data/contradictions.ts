import {
  curveVol,
  findArbitrage,
  isArbitrageFree,
  isCrossed,
  priceContract,
  type Arbitrage,
  type Curve,
  type QuotedExpiry,
  type SideQuotes,
  type SideVols,
  expiryName,
  type Side,
} from '@umwelt/core';
import type { Sides } from './block';
import type { LoadedSnapshot } from './snapshot';

/** What contradicts itself at a moment. */
export interface Contradictions {
  ofQuotes: Arbitrage[];
  /** At listed strikes, where a curve is borrowed: what is fitted contradicts nothing there. */
  ofCurves: Arbitrage[];
  /** Curves with a negative density somewhere. */
  folded: number;
  /** Curves that cross the one before. */
  crossed: number;
}

const side = (quotes: SideQuotes, vols: SideVols) => ({
  bid: quotes.bid,
  ask: quotes.ask,
  bidVol: vols.bid,
  askVol: vols.ask,
});

/** Quotes as they are looked through: of expiries that are used, ascending in time. */
export function quotedExpiries(snapshot: LoadedSnapshot, vols: readonly Sides<SideVols>[]): QuotedExpiry[] {
  return snapshot.slices
    .map((slice, i): QuotedExpiry | null => {
      const { fit } = slice;
      if (!(fit.forward > 0) || !(fit.years > 0) || fit.expiryAside) return null;
      const { call, put } = vols[i]!;
      return {
        expiry: expiryName(slice),
        years: fit.years,
        forward: fit.forward,
        discount: fit.discount,
        isEarly: snapshot.exercise === 'american',
        strike: slice.strike,
        call: side(slice.call, call),
        put: side(slice.put, put),
      };
    })
    .filter((expiry) => expiry !== null)
    .sort((a, b) => a.years - b.years);
}

/** The curves that are used, by time, as quotes at the listed strikes without a spread. */
function quotedCurves({ slices }: LoadedSnapshot): (QuotedExpiry & { curve: Curve })[] {
  return slices
    .flatMap(({ fit, strike, ...slice }) => {
      const { curve, forward, years, rate, discount } = fit;
      if (!curve || !(forward > 0) || !(years > 0) || fit.expiryAside) return [];
      const vol = strike.map((level) => curveVol(curve, Math.log(level / forward)));
      const of = (name: Side) => {
        const price = strike.map(
          (level, i) =>
            priceContract({ model: 'black-76', side: name, forward, strike: level, years, rate, vol: vol[i]! }).price,
        );
        return { bid: price, ask: price, bidVol: vol, askVol: vol };
      };
      const expiry = expiryName(slice);
      return [{ expiry, years, forward, discount, isEarly: false, strike, curve, call: of('call'), put: of('put') }];
    })
    .sort((a, b) => a.years - b.years);
}

/**
 * Looks through the quotes of a snapshot and its curves.
 *
 * @param vols of the quotes, an entry for each expiry of the snapshot
 */
export function contradictionsOf(snapshot: LoadedSnapshot, vols: readonly Sides<SideVols>[]): Contradictions {
  const used = snapshot.slices
    .map(({ fit }) => fit)
    .filter(({ curve, years, expiryAside }) => curve !== null && years > 0 && expiryAside === null);
  const curves = used.map(({ curve }) => curve!).sort((a, b) => a.years - b.years);
  return {
    ofQuotes: findArbitrage(quotedExpiries(snapshot, vols)),
    ofCurves: used.some(({ borrowed }) => borrowed) ? findArbitrage(quotedCurves(snapshot)) : [],
    folded: curves.filter((curve) => !isArbitrageFree(curve)).length,
    crossed: curves.slice(1).filter((curve, i) => isCrossed(curves[i]!, curve)).length,
  };
}

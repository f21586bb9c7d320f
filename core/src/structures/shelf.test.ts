import { describe, expect, it } from 'vitest';
import { emptySide, type ExpiryFit } from '../chain';
import { callDelta, curveVol, naturalCurve } from '../surface';
import { placeOnShelf, SHELF, type ListedSlice } from '.';

const STRIKES = Float64Array.from({ length: 41 }, (_, i) => 60 + 2 * i);

function sliceOf(years: number, day: string, isQuoted: (strike: number) => boolean = () => true): ListedSlice {
  const curve = naturalCurve({ theta: 0.05 * years, rho: -0.4, phi: 3 }, years, 100.5);
  const side = () => {
    const quotes = emptySide(STRIKES.length);
    STRIKES.forEach((strike, i) => {
      if (!isQuoted(strike)) return;
      quotes.bid[i] = 1;
      quotes.ask[i] = 1.1;
    });
    return quotes;
  };
  const fit = { expiry: day, settlement: 'pm', years, forward: 100.5, curve, atmVol: curveVol(curve, 0) } as ExpiryFit;
  return { expiry: day, settlement: 'pm', strike: STRIKES, call: side(), put: side(), fit };
}

const slices = [sliceOf(0.2, '2031-05-15'), sliceOf(0.45, '2031-08-14')];
const listed = { symbol: 'X', slices };
const short = (name: (typeof SHELF)[number], at = 0, on = listed) =>
  placeOnShelf(on, name, at)?.map(
    ({ side, strike, quantity, expiry }) => `${quantity}${side[0]}${strike}@${expiry.slice(5, 7)}`,
  );

describe('the shelf', () => {
  it('stands on listed strikes, legs of a side on different ones', () => {
    for (const name of SHELF) {
      const legs = placeOnShelf(listed, name, 0)!;
      expect(legs.length, name).toBeGreaterThan(0);
      for (const { strike } of legs) expect(STRIKES.includes(strike)).toBe(true);
      const places = legs.map(({ side, strike, expiry }) => `${side} ${strike} ${expiry}`);
      expect(new Set(places).size, name).toBe(places.length);
    }
  });
  it('is placed by delta: the nearest listed strike to it', () => {
    const { fit } = slices[0]!;
    const [sold, bought] = placeOnShelf(listed, 'put vertical', 0)!;
    const deltaOf = (strike: number) => 1 - callDelta(fit.curve!, Math.log(strike / fit.forward));
    for (const [leg, delta] of [
      [sold!, 0.25],
      [bought!, 0.1],
    ] as const) {
      const away = Math.abs(deltaOf(leg.strike) - delta);
      for (const other of [leg.strike - 2, leg.strike + 2])
        expect(Math.abs(deltaOf(other) - delta)).toBeGreaterThan(away - 0.01);
    }
    expect(sold!.strike).toBeGreaterThan(bought!.strike);
  });
  it('a straddle stands at the forward, a calendar on one strike in two expiries, a butterfly even on both sides', () => {
    expect(short('straddle')).toEqual(['1c100@05', '1p100@05']);
    expect(short('calendar')).toEqual(['-1c100@05', '1c100@08']);
    const strikes = placeOnShelf(listed, 'butterfly', 0)!.map(({ strike }) => strike);
    expect(strikes[1]! - strikes[0]!).toBe(strikes[2]! - strikes[1]!);
  });
  it('has nothing without a later expiry, without quotes, without a curve', () => {
    expect(short('calendar', 1)).toBeUndefined();
    const bare = { symbol: 'X', slices: [sliceOf(0.2, '2031-05-15', (strike) => strike === 100)] };
    expect(short('iron condor', 0, bare)).toBeUndefined();
    expect(short('call', 0, bare)).toEqual(['1c100@05']);
    const none = { symbol: 'X', slices: [{ ...slices[0]!, fit: { ...slices[0]!.fit, curve: null } }] };
    expect(short('call', 0, none)).toBeUndefined();
    expect(short('call', 7)).toBeUndefined();
  });
});

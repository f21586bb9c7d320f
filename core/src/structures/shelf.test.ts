import { describe, expect, it } from 'vitest';
import { emptySide, type ExpiryFit } from '../chain';
import { callDelta, curveVol, naturalCurve } from '../surface';
import { curveLaw } from '../odds';
import {
  PLACINGS,
  placeOnShelf,
  SHELF,
  sketchOf,
  USUAL_PLACINGS,
  type ListedSlice,
  type Placing,
  type ShelfName,
} from '.';

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
const short = (name: ShelfName, at = 0, on = listed, placing?: Placing) =>
  placeOnShelf(on, name, at, placing)?.legs.map(
    ({ side, strike, quantity, expiry }) => `${quantity}${side[0]}${strike}@${expiry.slice(5, 7)}`,
  );

describe('the shelf', () => {
  it('stands on listed strikes, legs of a side on different ones', () => {
    for (const name of SHELF) {
      const { legs } = placeOnShelf(listed, name, 0)!;
      expect(legs.length, name).toBeGreaterThan(0);
      for (const { strike } of legs) expect(STRIKES.includes(strike)).toBe(true);
      const places = legs.map(({ side, strike, expiry }) => `${side} ${strike} ${expiry}`);
      expect(new Set(places).size, name).toBe(places.length);
    }
  });
  it('is placed by delta: the nearest listed strike to it', () => {
    const { fit } = slices[0]!;
    const [sold, bought] = placeOnShelf(listed, 'put vertical', 0)!.legs;
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
    const strikes = placeOnShelf(listed, 'butterfly', 0)!.legs.map(({ strike }) => strike);
    expect(strikes[1]! - strikes[0]!).toBe(strikes[2]! - strikes[1]!);
  });
  it('is placed by odds, deviations, width and listed strikes as well', () => {
    const { fit } = slices[0]!;
    const placedBy = (by: keyof typeof USUAL_PLACINGS) => short('strangle', 0, listed, USUAL_PLACINGS[by])!;
    const strikesOf = (legs: readonly string[]) => legs.map((one) => Number(/[pc](\d+)@/.exec(one)![1]));
    const under = (strike: number) => curveLaw(fit.curve!).under(Math.log(strike / fit.forward));
    const [call, put] = strikesOf(placedBy('odds')) as [number, number];
    // No listed strike is nearer to a quarter beyond it.
    for (const other of [call - 2, call + 2])
      expect(Math.abs(1 - under(other) - 0.25)).toBeGreaterThan(Math.abs(1 - under(call) - 0.25) - 0.02);
    expect(Math.abs(under(put) - 0.25)).toBeLessThan(0.06);
    const deviation = fit.atmVol * Math.sqrt(fit.years);
    const near = (level: number) => 60 + 2 * Math.round((level - 60) / 2);
    expect(strikesOf(placedBy('deviations'))).toEqual([
      near(100.5 * Math.exp(deviation)),
      near(100.5 * Math.exp(-deviation)),
    ]);
    expect(strikesOf(placedBy('width'))).toEqual([near(100.5 * 1.04), near(100.5 * 0.96)]);
    expect(strikesOf(placedBy('strikes'))).toEqual([106, 94]);
    for (const by of PLACINGS)
      for (const name of SHELF)
        expect(placeOnShelf(listed, name, 0, USUAL_PLACINGS[by]), `${name} by ${by}`).not.toBeNull();
    expect(short('strangle', 0, listed, { by: 'strikes', near: 60, far: 70 })).toBeUndefined();
  });
  it('holds the underlying where the structure does; a box stands on two strikes, a roll on one in two expiries', () => {
    expect(SHELF.filter((name) => placeOnShelf(listed, name, 0)!.held === 1)).toEqual([
      ...['covered call', 'protective put', 'collar'],
    ]);
    const box = short('box')!;
    expect(new Set(box.map((one) => /\d+(?=@)/.exec(one)![0])).size).toBe(2);
    expect(short('jelly roll')).toEqual(['-1c100@05', '1p100@05', '1c100@08', '-1p100@08']);
    const calendars = short('double calendar')!;
    expect(calendars[0]!.replace('-', '').slice(0, -2)).toBe(calendars[1]!.slice(0, -2));
  });
  it('sketches what they come to: a box nothing, a straddle at the ends, a covered call flat over its strike', () => {
    const sketch = (name: ShelfName) => sketchOf(placeOnShelf(listed, name, 0)!, slices);
    const box = sketch('box');
    for (const value of box) expect(value).toBeCloseTo(0, 9);
    const straddle = sketch('straddle');
    expect(straddle).toHaveLength(41);
    expect(straddle[20]).toBeLessThan(0);
    expect(Math.min(straddle[0]!, straddle[40]!)).toBeGreaterThan(0);
    const covered = sketch('covered call');
    expect(covered[40]).toBeCloseTo(covered[38]!, 9);
    expect(covered[0]).toBeLessThan(covered[10]!);
    // A calendar is a tent.
    const calendar = sketch('calendar');
    expect(calendar.indexOf(Math.max(...calendar))).toBe(20);
    expect(sketchOf({ legs: [], held: 0 }, slices)).toEqual([]);
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

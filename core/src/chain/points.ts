import type { CurvePoints } from '../surface';
import type { SideVols } from './vols';

/** Within so many deviations of the forward a contract in the money says as much as the one out of it. */
const NEAR_FORWARD = 1;

/** Half the distance from bid to ask in vol; a bid without a vol leaves the ask to tell it alone. */
export function halfSpreadOf({ bid, mid, ask }: SideVols, i: number): number {
  return Number.isFinite(bid[i]!) ? 0.5 * (ask[i]! - bid[i]!) : ask[i]! - mid[i]!;
}

/**
 * What a curve is fitted to: at each strike the vol of the contract out of the money; near the forward, where that one is not
 * used, of the other, which stands for it by parity.
 *
 * @returns with the side and the position of the strike of each point
 */
export function curveQuotes(
  strike: Float64Array,
  { forward, years }: { readonly forward: number; readonly years: number },
  calls: SideVols,
  puts: SideVols,
): CurvePoints & { side: ('call' | 'put')[]; index: number[] } {
  const of = { call: calls, put: puts };
  const near = NEAR_FORWARD * middleVol(calls, puts) * Math.sqrt(years);
  const found = {
    logMoneyness: [] as number[],
    vol: [] as number[],
    halfSpread: [] as number[],
    side: [] as ('call' | 'put')[],
    index: [] as number[],
  };
  for (let i = 0; i < strike.length; i++) {
    const k = Math.log(strike[i]! / forward);
    const [outside, inside] = k < 0 ? (['put', 'call'] as const) : (['call', 'put'] as const);
    const isNear = of[inside].reason[i] === 0 && Math.abs(k) < near;
    const side = of[outside].reason[i] !== 0 && isNear ? inside : outside;
    if (of[side].reason[i] !== 0) continue;
    found.logMoneyness.push(k);
    found.vol.push(of[side].mid[i]!);
    found.halfSpread.push(halfSpreadOf(of[side], i));
    found.side.push(side);
    found.index.push(i);
  }
  return { ...found, count: found.vol.length };
}

/** The middle of the vols of an expiry that are used. */
function middleVol(...sides: readonly SideVols[]): number {
  const vols = sides.flatMap(({ mid, reason }) => Array.from(mid).filter((_, i) => reason[i] === 0));
  vols.sort((a, b) => a - b);
  return vols[vols.length >> 1] ?? NaN;
}

import type { Side } from '../contracts/contract';
import type { CurvePoints } from '../surface';
import type { SideVols } from './types';

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
): CurvePoints & { side: Side[]; index: number[] } {
  const of = { call: calls, put: puts };
  const near = NEAR_FORWARD * volAtForward(strike, forward, calls, puts) * Math.sqrt(years);
  const found = {
    logMoneyness: [] as number[],
    vol: [] as number[],
    halfSpread: [] as number[],
    side: [] as Side[],
    index: [] as number[],
  };
  for (let i = 0; i < strike.length; i++) {
    const k = Math.log(strike[i]! / forward);
    const [outside, inside] = k < 0 ? (['put', 'call'] as const) : (['call', 'put'] as const);
    // Where exercising earns more than is bid the vol is anybody's guess.
    const isNear = of[inside].reason[i] === 0 && Number.isFinite(of[inside].bid[i]!) && Math.abs(k) < near;
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

/** The vol of the contract nearest to the forward that is used, out of the money where both are. */
function volAtForward(strike: Float64Array, forward: number, calls: SideVols, puts: SideVols): number {
  let vol = NaN;
  let nearest = Infinity;
  for (let i = 0; i < strike.length; i++) {
    const away = Math.abs(strike[i]! - forward);
    if (away >= nearest) continue;
    const [outside, inside] = strike[i]! < forward ? [puts, calls] : [calls, puts];
    const side = outside.reason[i] === 0 ? outside : inside;
    if (side.reason[i] !== 0) continue;
    [vol, nearest] = [side.mid[i]!, away];
  }
  return vol;
}

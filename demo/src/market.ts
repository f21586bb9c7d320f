import { factorsOf, followPath, playPath, sessionDays, type Factors, type Session } from './path';
import { FOLLOWERS, ROOTS } from './underlyings';
import type { Follower, UnderlyingSpec } from './world';

/** What a symbol follows: the path that is played, and how it is seen. */
export interface Lineage {
  spec: UnderlyingSpec;
  root: UnderlyingSpec;
  follower: Follower | null;
}

/**
 * The lineage of a symbol.
 *
 * @throws RangeError where no underlying of the world has it
 */
export function lineageOf(symbol: string): Lineage {
  const follower = FOLLOWERS.find(({ spec }) => spec.symbol === symbol) ?? null;
  const rootSymbol = follower?.of ?? symbol;
  const root = ROOTS.find((spec) => spec.symbol === rootSymbol);
  const spec = follower?.spec ?? root;
  if (!root || !spec) throw new RangeError(`${symbol} is no underlying of the demo world`);
  return { spec, root, follower };
}

/** The sessions of the underlyings, each played when it is first asked for. */
export class World {
  private readonly days = sessionDays();
  private readonly factors: Factors = factorsOf(this.days);
  private readonly paths = new Map<string, Session[]>();

  path(symbol: string): Session[] {
    let path = this.paths.get(symbol);
    if (!path) {
      const { root, follower } = lineageOf(symbol);
      path = follower ? followPath(follower, this.path(root.symbol)) : playPath(root, this.days, this.factors);
      this.paths.set(symbol, path);
    }
    return path;
  }
}

/** By how many deviations the price has moved since the session before. */
export function stirOf(price: number, before: Session): number {
  return Math.abs(Math.log(price / before.close)) / (before.vol / 16);
}

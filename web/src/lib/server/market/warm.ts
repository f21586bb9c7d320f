import { atOneMoment, type Database } from '../db';
import { snapshotAnswer } from './answers';
import { listUnderlyings, loadLatest } from './queries';
import { valued } from './valued';

/** Enough of them for code to be compiled as it is used. */
const CHAINS = 24;
const OF_KIND = 8;
/** So many connections are opened for it, which those who come find open. */
const AT_A_TIME = 8;

/**
 * Answers some chains of each kind of underlying for nobody, so that the first who ask need not wait until the code that
 * answers them is compiled and connections are open.
 */
export async function prepareChains(database: Database): Promise<void> {
  const perKind = new Map<string, number>();
  const chosen = (await listUnderlyings(database)).filter(({ kind }) => {
    const seen = perKind.get(kind) ?? 0;
    perKind.set(kind, seen + 1);
    return seen < OF_KIND;
  });
  const left = chosen.slice(0, CHAINS);
  const prepare = async () => {
    for (let underlying = left.pop(); underlying; underlying = left.pop()) {
      const { symbol } = underlying;
      const stored = await atOneMoment(database, (session) => loadLatest(session, symbol));
      if (!stored) continue;
      JSON.stringify(snapshotAnswer(underlying, stored));
      const choice = { basis: 'curve', realizedVol: NaN, indexVol: NaN } as const;
      await valued({ kind: 'chain', underlying, stored, choice, layout: 'rows' });
    }
  };
  await Promise.all(Array.from({ length: AT_A_TIME }, prepare));
}

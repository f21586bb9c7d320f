import { call } from '$lib/api/call';
import { framesOfAnswer, type Frame } from './frame';

/**
 * The curves of an underlying between two moments, both included.
 *
 * @param more how many listed strikes on either side of the forward are included, and whether every expiry shows its own curve,
 *   also where it borrows one
 */
export async function loadCurves(
  symbol: string,
  from: string,
  to: string,
  step: 'session' | 'moment',
  { strikes = 0, isOwn = false }: { strikes?: number; isOwn?: boolean } = {},
  signal?: AbortSignal,
): Promise<Frame[]> {
  const answer = await call('GET /underlyings/{symbol}/curves', {
    path: { symbol },
    query: { from, to, step, strikes: strikes || null, own: isOwn ? 'true' : null },
    signal,
  });
  return framesOfAnswer(answer);
}

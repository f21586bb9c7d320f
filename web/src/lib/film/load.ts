import { ask } from '$lib/state/api';
import { framesOfAnswer, type Frame } from './frame';

const part = encodeURIComponent;

/**
 * The curves of an underlying between two moments, both included.
 *
 * @param more how many listed strikes either side of the forward come along, and whether every expiry shows its own curve,
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
  const query = `from=${part(from)}&to=${part(to)}&step=${step}${strikes > 0 ? `&strikes=${strikes}` : ''}${isOwn ? '&own=true' : ''}`;
  return framesOfAnswer(await ask(`/underlyings/${part(symbol)}/curves?${query}`, signal ? { signal } : {}));
}

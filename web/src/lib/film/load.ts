import { ask } from '$lib/state/api';
import { framesOfAnswer, type Frame } from './frame';

const part = encodeURIComponent;

/**
 * The curves of an underlying between two moments, both included.
 *
 * @param strikes how many listed strikes either side of the forward come along
 */
export async function loadCurves(
  symbol: string,
  from: string,
  to: string,
  step: 'session' | 'moment',
  strikes = 0,
  signal?: AbortSignal,
): Promise<Frame[]> {
  const query = `from=${part(from)}&to=${part(to)}&step=${step}${strikes > 0 ? `&strikes=${strikes}` : ''}`;
  return framesOfAnswer(await ask(`/underlyings/${part(symbol)}/curves?${query}`, signal ? { signal } : {}));
}

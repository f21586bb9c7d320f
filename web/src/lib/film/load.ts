import { ask } from '$lib/state/api';
import { framesOfAnswer, type Frame } from './frame';

const part = encodeURIComponent;

/** The curves of an underlying between two moments, both included. */
export async function loadCurves(
  symbol: string,
  from: string,
  to: string,
  step: 'session' | 'moment',
  signal?: AbortSignal,
): Promise<Frame[]> {
  const query = `from=${part(from)}&to=${part(to)}&step=${step}`;
  return framesOfAnswer(await ask(`/underlyings/${part(symbol)}/curves?${query}`, signal ? { signal } : {}));
}

import type { Contract } from '$lib/state';

/** The contract that a mark of a chart stands for, or null. */
export function pointed(mark: unknown[] | null): Contract | null {
  const [expiry, strike, side] = mark ?? [];
  return typeof expiry === 'string' && typeof strike === 'number'
    ? { expiry, strike, side: side === 'call' ? 'call' : 'put' }
    : null;
}

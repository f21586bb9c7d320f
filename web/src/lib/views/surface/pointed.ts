import { namedExpiry, type OptionId } from '@umwelt/core';
import type { FocusChange } from '$lib/state';

/** The expiry that a mark of a chart stands for, and the contract where it is one; null for none. */
export function focusAt([name, strike, side]: readonly unknown[]): FocusChange | null {
  const expiry = typeof name === 'string' ? namedExpiry(name) : null;
  if (!expiry) return null;
  return typeof strike === 'number' ? { ...expiry, strike, side: side === 'call' ? 'call' : 'put' } : expiry;
}

/** The contract of an underlying that a mark stands for; null where it is none. */
export function contractAt(mark: readonly unknown[] | null, symbol: string | null): OptionId | null {
  const [name, strike, side] = mark ?? [];
  const expiry = typeof name === 'string' ? namedExpiry(name) : null;
  if (!expiry || symbol === null || typeof strike !== 'number') return null;
  return { symbol, ...expiry, strike, side: side === 'call' ? 'call' : 'put' };
}

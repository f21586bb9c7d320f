import { expiryName, type ExpiryId } from '@umwelt/core';
import { namedExpiries } from '$lib/state';
import type { SurfaceParams } from './params';

/** Names of the expiries in view that the skew leaves out. */
export const hiddenOf = (expiries: readonly ExpiryId[], { hidden }: SurfaceParams) => namedExpiries(expiries, hidden);

/** Shows an expiry in the skew, or leaves it out. */
export function toggleExpiry(expiries: readonly ExpiryId[], params: SurfaceParams, expiry: ExpiryId): void {
  const name = expiryName(expiry);
  const hidden = [...hiddenOf(expiries, params)];
  params.hidden = hidden.includes(name) ? hidden.filter((other) => other !== name) : [...hidden, name];
}

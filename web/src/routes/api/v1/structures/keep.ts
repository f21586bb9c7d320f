import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { ApiError, notFound } from '$lib/server/api';
import { database, structuresHub } from '$lib/server/database';
import { findUnderlying, keepStructures, listStructures } from '$lib/server/market';

type Asked = z.infer<typeof schemas.StructuresRequest>['structures'][number];

/**
 * Keeps structures, all of them or none.
 *
 * @param pathOf where the legs of one are in what was asked
 * @throws ApiError where an underlying is not known, or legs cannot be priced
 */
export async function keepAll(structures: readonly Asked[], asof: string | undefined, pathOf: (at: number) => string) {
  const moment = asof ? new Date(asof) : undefined;
  for (const symbol of new Set(structures.map((one) => one.symbol)))
    if (!(await findUnderlying(database(), symbol))) throw notFound(`there is no underlying ${symbol}`);
  const given = structures.map((one) => ({
    ...one,
    legs: one.legs.map((leg) => ({ ...leg, settlement: leg.settlement ?? null })),
  }));
  const missing = await keepStructures(database(), given, moment);
  if (missing) {
    const { at, words } = missing;
    throw new ApiError(422, 'Cannot be priced', words, { errors: [{ path: pathOf(at), message: words }] });
  }
  structuresHub().look();
  return { structures: await listStructures(database(), moment) };
}

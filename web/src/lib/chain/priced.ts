import type { z } from 'zod';
import type { schemas } from '$lib/server/api';
import { ask } from '$lib/state/api';

type Answer = z.infer<typeof schemas.StructuresResponse>;
/** A spread that somebody keeps, with what it is worth at the moment in view. */
export type PricedStructure = Answer['structures'][number];

const ofAnswer = async (answer: Promise<Answer>) => (await answer).structures;

/** Spreads that are kept, as they are worth at a moment; null is the latest. */
export function loadPriced(asof: string | null): Promise<PricedStructure[]> {
  return ofAnswer(ask(`/structures${asof ? `?asof=${encodeURIComponent(asof)}` : ''}`));
}

const send = (method: string, path: string, body?: unknown) =>
  ask<Answer>(path, { method, ...(body !== undefined && { body: JSON.stringify(body) }) });

/** Keeps a spread at what it is worth. @throws Error with what is wrong with it */
export function keepPriced(given: z.input<typeof schemas.StructureRequest>): Promise<PricedStructure[]> {
  return ofAnswer(send('POST', '/structures', given));
}

/** Changes how many there are of a spread, or its note. */
export async function changePriced(id: number, change: { quantity?: number; note?: string }): Promise<void> {
  await send('PUT', `/structures/${id}`, change);
}

/** Lets go of a spread. */
export async function dropPriced(id: number): Promise<void> {
  await send('DELETE', `/structures/${id}`);
}

/** Brings a spread back as it was. */
export async function restorePriced({ id }: PricedStructure): Promise<void> {
  await send('POST', `/structures/${id}/restore`);
}

/** What a spread has gained since it was kept, in money of the whole position: mid against mid. */
export function gainOf({ quantity, mid, now }: PricedStructure): number {
  if (!now || now.missing !== null) return NaN;
  return ((now.mid ?? NaN) - (mid ?? NaN)) * quantity * now.multiplier;
}

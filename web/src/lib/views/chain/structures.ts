import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call, Refusal } from '$lib/api/call';
import type { Workbench } from '$lib/state';

type Answer = z.infer<typeof schemas.StructuresResponse>;
/** A structure that somebody keeps, with what it is worth at the moment in view. */
export type KeptStructure = Answer['structures'][number];

const ofAnswer = async (answer: Promise<Answer>) => (await answer).structures;

/** Structures that are kept, as they are worth at a moment; null is the latest. */
export function loadKeptStructures(asof: string | null): Promise<KeptStructure[]> {
  return ofAnswer(call('GET /structures', { query: { asof } }));
}

/** Keeps a structure at what it is worth. @throws Error with what is wrong with it */
export function keepStructure(given: z.input<typeof schemas.StructureRequest>): Promise<KeptStructure[]> {
  return ofAnswer(call('POST /structures', { body: given }));
}

/** What somebody changes of a structure. */
export type StructureChange = { quantity?: number; note?: string };

/** Somebody else has changed the same of a structure meanwhile. */
export class Contested extends Error {
  constructor(
    /** The structure as it is now. */
    readonly row: KeptStructure,
    readonly change: StructureChange,
  ) {
    const [name] = Object.keys(change) as (keyof StructureChange)[];
    super(`somebody else has made the ${name} “${row[name!]}” meanwhile`);
  }
}

/**
 * Changes how many there are of a structure, or its note. Where somebody else has changed the other of these meanwhile, both hold.
 *
 * @param row as it is in view
 * @returns all of them
 * @throws Contested where it was the same
 */
export async function changeStructure(row: KeptStructure, change: StructureChange): Promise<KeptStructure[]> {
  try {
    return await ofAnswer(
      call('PUT /structures/{id}', { path: { id: row.id }, body: { version: row.version, ...change } }),
    );
  } catch (error) {
    if (!(error instanceof Refusal) || !error.current) throw error;
    const now = { ...row, ...(error.current as Pick<KeptStructure, 'quantity' | 'note' | 'version'>) };
    const names = Object.keys(change) as (keyof StructureChange)[];
    if (names.some((name) => now[name] !== row[name])) throw new Contested(now, change);
    return changeStructure(now, change);
  }
}

/** Deletes a structure. */
export async function deleteStructure(id: number): Promise<void> {
  await call('DELETE /structures/{id}', { path: { id } });
}

/** Brings a structure back as it was. */
export async function restoreStructure({ id }: KeptStructure): Promise<void> {
  await call('POST /structures/{id}/restore', { path: { id } });
}

/** What a structure has gained since it was kept, in money of the whole position: mid against mid. */
export function gainOf({ quantity, mid, now }: KeptStructure): number {
  if (!now || now.missing !== null) return NaN;
  return ((now.mid ?? NaN) - (mid ?? NaN)) * quantity * now.multiplier;
}

/** Picks the legs of a structure again, on its underlying. */
export function openKept(bench: Workbench, { symbol, legs }: KeptStructure): void {
  bench.address.choose(symbol);
  bench.context.legs = legs.map((leg) => ({ ...leg, symbol }));
  if (legs[0]) bench.focus.set(legs[0]);
}

import type { NamedLeg } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call, Refusal } from '$lib/api/call';
import type { Workbench } from '$lib/state';
import { legWords } from '$lib/structure';

type Answer = z.infer<typeof schemas.StructuresResponse>;
/** A structure that somebody keeps, with what it is worth at the moment in view. */
export type KeptStructure = Answer['structures'][number];

const ofAnswer = async (answer: Promise<Answer>) => (await answer).structures;

/** Structures that are kept, as they are worth at a moment; null is the latest. */
export function loadKeptStructures(asof: string | null): Promise<KeptStructure[]> {
  return ofAnswer(call('GET /structures', { query: { asof } }));
}

/** Keeps structures at what they are worth, all of them or none. @throws Error with what is wrong with one */
export function keepStructures(given: z.input<typeof schemas.StructuresRequest>): Promise<KeptStructure[]> {
  return ofAnswer(call('POST /structures/import', { body: given }));
}

/**
 * Listens to what kept structures are worth at a moment; null is the latest.
 *
 * @param take called with all of them, at once and whenever one has changed
 * @returns what stops listening
 */
export function listenToKept(asof: string | null, take: (rows: KeptStructure[]) => void): () => void {
  const source = new EventSource(`/api/v1/structures/stream${asof ? `?asof=${encodeURIComponent(asof)}` : ''}`);
  source.addEventListener('structures', (event) =>
    take((JSON.parse((event as MessageEvent<string>).data) as Answer).structures),
  );
  return () => source.close();
}

/** Keeps a structure at what it is worth. @throws Error with what is wrong with it */
function keepStructure(given: z.input<typeof schemas.StructureRequest>): Promise<KeptStructure[]> {
  return ofAnswer(call('POST /structures', { body: given }));
}

/** Keeps what is in hand, or would be. @throws Error with what is wrong with it */
export async function keepInHand(
  { context }: { context: Pick<Workbench['context'], 'symbol' | 'legs' | 'held' | 'asof'> },
  name = '',
): Promise<void> {
  const { symbol, legs, held, asof } = context;
  if (!symbol) return;
  const given = legs.map(({ symbol: of, settlement, ...leg }) => ({
    ...leg,
    ...(of !== symbol && { symbol: of }),
    ...(settlement && { settlement }),
  }));
  await keepStructure({ symbol, legs: given, held, name, ...(asof && { asof }) });
}

/** What somebody changes of a structure. */
export type StructureChange = { quantity?: number; name?: string; tags?: string[]; note?: string };

type Changed = keyof StructureChange;

/** Somebody else has changed the same of a structure meanwhile. */
export class Contested extends Error {
  constructor(
    /** The structure as it is now. */
    readonly row: KeptStructure,
    readonly change: StructureChange,
  ) {
    const [name] = Object.keys(change) as (keyof StructureChange)[];
    super(`somebody else has made the ${name} “${[row[name!]].flat().join(', ')}” meanwhile`);
  }
}

/**
 * Changes how many there are of a structure, its name, its tags or its note. Where somebody else has changed another of these
 * meanwhile, both hold.
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
    const now = { ...row, ...(error.current as Pick<KeptStructure, Changed | 'version'>) };
    const names = Object.keys(change) as (keyof StructureChange)[];
    if (names.some((name) => JSON.stringify(now[name]) !== JSON.stringify(row[name]))) throw new Contested(now, change);
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

/** Legs in words; of one of another delivery its name. */
export function legsWords(legs: KeptStructure['legs']): string {
  return legs.map((leg) => `${legWords(leg)}${leg.symbol ? ` of ${leg.symbol}` : ''}`).join(', ');
}

/** What a structure is called: its name, or its legs. */
export function nameOf({ name, legs }: Pick<KeptStructure, 'name' | 'legs'>): string {
  return name || legsWords(legs);
}

/** The legs of a kept structure, each with its symbol, and what is held of the underlying. */
export function legsOfKept({ symbol, legs, held }: KeptStructure): { legs: NamedLeg[]; held: number } {
  return { legs: legs.map((leg) => ({ ...leg, symbol: leg.symbol ?? symbol })), held };
}

/** Takes a structure in hand again, on its underlying. */
export function openKept(bench: Workbench, kept: KeptStructure): void {
  bench.address.choose(kept.symbol);
  Object.assign(bench.context, legsOfKept(kept));
  if (kept.legs[0]) bench.focus.set(kept.legs[0]);
}

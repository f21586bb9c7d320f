import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import type { Screen } from '$lib/columns';

type Answer = z.infer<typeof schemas.KeptScreensResponse>;
export type KeptScreen = Answer['screens'][number];

const screensOf = async (answer: Promise<Answer>) => (await answer).screens;

/** Screens that are kept, by name. */
export const loadKept = (): Promise<KeptScreen[]> => screensOf(call('GET /screens'));

/**
 * Keeps a screen.
 *
 * @param version of the one of the same name that it replaces; null for a new one
 * @throws Refusal with the one that there is where that is another
 */
export function keepScreen(
  { name, columns, filters, kinds, families, sort }: Screen,
  version: number | null = null,
): Promise<KeptScreen[]> {
  return screensOf(call('POST /screens', { body: { name, columns, filters, kinds, families, sort, version } }));
}

/** Deletes a screen. */
export const dropKept = (id: number): Promise<KeptScreen[]> =>
  screensOf(call('DELETE /screens/{id}', { path: { id } }));

import type { z } from 'zod';
import type { schemas } from '$lib/server/api';
import { ask } from '$lib/state/api';
import type { Screen } from './shipped';

type Answer = z.infer<typeof schemas.KeptScreensResponse>;
export type KeptScreen = Answer['screens'][number];

const screensOf = async (answer: Promise<Answer>) => (await answer).screens;

/** Screens that are kept, by name. */
export const loadKept = (): Promise<KeptScreen[]> => screensOf(ask('/screens'));

/** Keeps a screen; one of the same name is replaced. */
export function keepScreen({ name, columns, filters, kinds, families, sort }: Screen): Promise<KeptScreen[]> {
  const body = JSON.stringify({ name, columns, filters, kinds, families, sort });
  return screensOf(ask('/screens', { method: 'POST', body }));
}

/** Lets go of a screen. */
export const dropKept = (id: number): Promise<KeptScreen[]> => screensOf(ask(`/screens/${id}`, { method: 'DELETE' }));

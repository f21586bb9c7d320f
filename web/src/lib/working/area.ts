import { getContext, hasContext, setContext } from 'svelte';

const KEY = Symbol('worked area');

/** Makes the numbers of a component one stop for the tab key. */
export function provideArea(): void {
  setContext(KEY, true);
}

/** Whether a number stands in an area that arrows go through. */
export const isInArea = (): boolean => hasContext(KEY) && getContext<boolean>(KEY);

import type { View } from '$lib/state/view';

/** Views as they were given, in the order of the rail. @throws RangeError where two have the same name, title or key */
export function registryOf(views: readonly View[]): readonly View[] {
  for (const what of ['name', 'title', 'key'] as const) {
    const seen = new Set<string>();
    for (const view of views) {
      if (seen.has(view[what])) throw new RangeError(`two views have the ${what} ${view[what]}`);
      seen.add(view[what]);
    }
  }
  return views;
}

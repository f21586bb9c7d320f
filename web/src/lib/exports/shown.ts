import { getContext, onDestroy, setContext } from 'svelte';
import type { DataTable } from '$lib/tables/data-table';

/** Something in view that can be taken away as a file. */
export interface Shown {
  /** Name of the file. */
  name: string;
  title: () => string;
  /** Its figures as they are now; null while there are none. */
  read: () => DataTable | null;
  /** Where the API gives the same, for a spreadsheet that asks for it again and again; null where it does not. */
  address?: () => string | null;
}

/** What is in view, in the order in which it came: asked for when somebody wants a file, so that nothing follows it. */
export class ShownTables {
  readonly list = new Set<Shown>();

  /** Adds something, until the component that shows it goes. */
  offer(shown: Shown): void {
    this.list.add(shown);
    onDestroy(() => this.list.delete(shown));
  }
}

const KEY = Symbol('shown tables');

/** Makes the list of a page. */
export function provideShown(): ShownTables {
  return setContext(KEY, new ShownTables());
}

/** Says of something in view that it can be exported: while the component is made. */
export function offerTable(
  name: string,
  title: Shown['title'],
  read: Shown['read'],
  address?: NonNullable<Shown['address']>,
): void {
  getContext<ShownTables>(KEY).offer({ name, title, read, ...(address ? { address } : {}) });
}

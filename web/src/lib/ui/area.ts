import { getContext, hasContext, setContext } from 'svelte';

const KEY = Symbol('key area');

/** Makes the stops of a component one stop for the tab key. */
export function provideArea(): void {
  setContext(KEY, true);
}

/** Whether a stop stands in an area that arrows go through. */
export const isInArea = (): boolean => hasContext(KEY) && getContext<boolean>(KEY);

/** The cells of a table as they are read, lines of them between tabs: a cell over several columns stands in the first. */
export function tabbedCells({ rows }: HTMLTableElement): string {
  const textsOf = (cell: HTMLTableCellElement) => [
    cell.innerText.trim().replace(/\s+/g, ' '),
    ...Array.from({ length: cell.colSpan - 1 }, () => ''),
  ];
  return Array.from(rows, ({ cells }) => Array.from(cells, textsOf).flat().join('\t')).join('\n');
}

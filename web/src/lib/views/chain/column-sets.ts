import { CHAIN_COLUMN_IDS, type ChainColumnId } from '$lib/columns';

const STORED = 'umwelt-chain-columns';

/** Sets of columns that somebody keeps in this browser, by name. */
export type OwnSets = Readonly<Record<string, readonly ChainColumnId[]>>;

/** Reads what is stored; what makes no sense is left out. */
export function readOwnSets(text: string | null): OwnSets {
  let stored: unknown;
  try {
    stored = JSON.parse(text ?? '{}');
  } catch {
    return {};
  }
  if (typeof stored !== 'object' || stored === null) return {};
  const known = Object.entries(stored).flatMap(([name, ids]): [string, ChainColumnId[]][] => {
    const columns = Array.isArray(ids) ? CHAIN_COLUMN_IDS.filter((id) => ids.includes(id)) : [];
    const ordered = columns.sort((a, b) => (ids as string[]).indexOf(a) - (ids as string[]).indexOf(b));
    return ordered.length > 0 ? [[name, ordered]] : [];
  });
  return Object.fromEntries(known);
}

export const loadOwnSets = (): OwnSets => readOwnSets(localStorage.getItem(STORED));

/** Keeps a set, or with null deletes it; what is kept then. */
export function keepOwnSet(name: string, columns: readonly ChainColumnId[] | null): OwnSets {
  const { [name]: _, ...others } = loadOwnSets();
  const sets = columns ? { ...others, [name]: columns } : others;
  localStorage.setItem(STORED, JSON.stringify(sets));
  return sets;
}

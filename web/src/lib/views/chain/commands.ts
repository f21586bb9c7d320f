import type { ViewCommands } from '$lib/state/view';
import { loadKeptStructures, nameOf, openKept } from '$lib/kept';

/** Structures that are kept: each picks its legs again. */
export const commandsOf: ViewCommands['commandsOf'] = async (bench, open) =>
  (await loadKeptStructures(bench.context.asof)).map((row) => ({
    id: `structure ${row.id}`,
    kind: 'structure',
    label: `${row.symbol} ${nameOf(row)}`,
    hint: row.note ?? undefined,
    run: () => {
      openKept(bench, row);
      open('chain');
    },
  }));

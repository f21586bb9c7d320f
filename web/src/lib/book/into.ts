import type { LoadedSnapshot } from '$lib/data';
import type { Workbench } from '$lib/state';
import { notify } from '$lib/ui';
import { snapshotAt, ticketOfLegs } from './tickets';

/** Opens the ticket that puts what is in hand into a book, at the quotes of the moment in view. */
export async function intoBook(bench: Workbench): Promise<void> {
  const { legs, held } = bench.context;
  const { snapshot } = bench.snapshot;
  const { underlying } = bench.market;
  if (!snapshot || !underlying || (legs.length === 0 && held === 0)) {
    notify('No legs are in hand: pick some in the Chain or in Structure');
    return;
  }
  const others = new Map<string, LoadedSnapshot>();
  for (const { symbol } of legs) {
    if (symbol === snapshot.symbol || others.has(symbol)) continue;
    const other = await snapshotAt(symbol, snapshot.asof);
    if (other) others.set(symbol, other);
  }
  const unit = underlying.kind === 'future' ? underlying.multiplier : 1;
  bench.dialogs.ticket = ticketOfLegs(snapshot, legs, held, unit, others);
}

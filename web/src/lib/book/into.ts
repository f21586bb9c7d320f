import type { Workbench } from '$lib/state';
import { notify } from '$lib/ui';
import { ticketOfLegs } from './tickets';

/** Opens the ticket that puts what is in hand into a book, at the quotes of the moment in view. */
export function intoBook(bench: Workbench): void {
  const { legs, held } = bench.context;
  const { snapshot } = bench.snapshot;
  const { underlying } = bench.market;
  if (!snapshot || !underlying || (legs.length === 0 && held === 0)) {
    notify('No legs are in hand: pick some in the Chain or in Structure');
    return;
  }
  bench.dialogs.ticket = ticketOfLegs(snapshot, legs, held, underlying.kind === 'future' ? underlying.multiplier : 1);
}

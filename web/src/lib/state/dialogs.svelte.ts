import type { Basis } from '@umwelt/core';
import { closeUpOf } from '$lib/working/close-up';
import { contractWork } from '$lib/working/contract';
import type { Work } from '$lib/working/lines';
import type { FocusStore } from './focus.svelte';
import type { MarketStore } from './market.svelte';
import type { SampleStore } from './samples.svelte';
import type { SnapshotStore } from './snapshot.svelte';

/** Trades on their way into a book, as its dialog takes them. */
export interface TicketShown {
  readonly title: string;
  readonly symbol: string;
}

/** Dialogs that open over every view. */
export class DialogStore {
  /** The working that is open; null for none. */
  work = $state.raw<Work | null>(null);
  /** What is about to be booked; null for nothing. */
  ticket = $state.raw<TicketShown | null>(null);
  /** Whether the view in sight shows contracts; the layout knows. */
  showsContract = false;

  constructor(
    private readonly market: MarketStore,
    private readonly snapshots: SnapshotStore,
    private readonly focus: FocusStore,
    private readonly samples: SampleStore,
  ) {}

  /**
   * Opens the working of the lit contract, at a number of it; where a view holds no contract nothing opens.
   *
   * @param basis the one in use unless given
   */
  openWorking(at?: string, basis?: Basis): void {
    const { shown } = this.snapshots;
    const { lit } = this.focus;
    if (!shown || !lit || !this.showsContract) return;
    const closeUp = closeUpOf(shown, lit, this.samples.of(lit.slice));
    this.work = contractWork({ shown, focus: lit, closeUp, zone: this.market.calendar.zone }, at, basis);
  }
}

import { lookAt, lookThrough, type QuotesLook } from '$lib/data';
import type { Workbench } from '$lib/state';
import { problemOf } from '$lib/data/loaded.svelte';

/**
 * What the quotes of the moment in view contradict, and which of them are set aside, computed off the page's thread.
 * While it plays, the worker fetches the quotes itself, one moment at a time: what it cannot keep up with is left out.
 */
export class QuotesInView {
  /** What was found last, which may be of a moment before the one in view. */
  found = $state.raw<QuotesLook | null>(null);
  problem = $state<string | null>(null);
  private wanted: (() => Promise<QuotesLook | null>) | null = null;
  private isLooking = false;

  constructor(bench: Workbench) {
    $effect(() => {
      const { frame } = bench.playback;
      const { shown } = bench.snapshot;
      const { live } = bench.moment;
      if (frame) this.want(() => lookAt(frame.symbol, frame.asof));
      else if (shown) {
        const { snapshot } = shown;
        this.want(async () => (await lookThrough(snapshot)) ?? (live ? null : lookAt(snapshot.symbol, snapshot.asof)));
      }
    });
    $effect(() => () => (this.wanted = null));
  }

  private want(look: () => Promise<QuotesLook | null>): void {
    this.wanted = look;
    if (!this.isLooking) void this.work();
  }

  private async work(): Promise<void> {
    this.isLooking = true;
    while (this.wanted) {
      const look = this.wanted;
      this.wanted = null;
      try {
        this.found = await look();
        this.problem = null;
      } catch (error) {
        this.problem = problemOf(error);
      }
    }
    this.isLooking = false;
  }
}

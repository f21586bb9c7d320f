import type { Basis, BasisChoice, Sample } from '@umwelt/core';
import { untrack } from 'svelte';
import { drawSample } from '$lib/data/client';
import { problemOf } from '$lib/data/loaded.svelte';
import { choiceOf, type PastTerms, type PricingTerms } from '$lib/data/pricing';
import type { Valued } from '$lib/data/valued';
import type { FocusStore } from './focus.svelte';
import type { SnapshotStore } from './snapshot.svelte';

/** Paths of the past to the expiries that something wants them of, by position in what is shown. */
export class SampleStore {
  problem = $state<string | null>(null);
  private drawn = $state.raw<{ of: PricingTerms | null; by: Readonly<Record<number, Sample | null>> }>({
    of: null,
    by: {},
  });

  constructor(
    private readonly snapshots: SnapshotStore,
    focus: FocusStore,
  ) {
    // Where the odds of `realized` are taken from paths, those to the lit expiry are wanted.
    $effect(() => {
      const { shown } = snapshots;
      const past = shown?.terms.past;
      if (shown && focus.lit && past) return this.draw(shown, focus.lit.slice, past);
    });
  }

  /** Paths to an expiry of what is shown; null where none can be drawn, undefined while none are known. */
  of(slice: number): Sample | null | undefined {
    return this.drawn.of !== null && this.drawn.of === this.snapshots.shown?.terms ? this.drawn.by[slice] : undefined;
  }

  /** Draws paths to an expiry of what is shown, whatever the odds of `realized` are: meant for an effect. */
  want(slice: number): (() => void) | undefined {
    const { shown } = this.snapshots;
    const past = shown && (shown.terms.past ?? shown.terms.usualPast);
    if (!past || !shown.snapshot.slices[slice]) return;
    return this.draw(shown, slice, past);
  }

  /** What an expiry of what is shown is valued by under a basis. */
  choiceAt(basis: Basis, slice: number): BasisChoice {
    return choiceOf(basis, this.snapshots.shown!.terms, slice, this.of(slice));
  }

  private draw({ snapshot, terms }: Valued, slice: number, past: PastTerms): (() => void) | undefined {
    if (untrack(() => this.drawn.of === terms && slice in this.drawn.by)) return;
    let isStale = false;
    drawSample(snapshot, snapshot.slices[slice]!.fit, past).then(
      (sample) => {
        if (isStale) return;
        this.problem = null;
        const known = this.drawn.of === terms ? this.drawn.by : {};
        this.drawn = { of: terms, by: { ...known, [slice]: sample } };
      },
      (error: unknown) => {
        if (!isStale) this.problem = problemOf(error);
      },
    );
    return () => (isStale = true);
  }
}

import { BASES, type ExpiryFit } from '@umwelt/core';
import { loadSnapshot } from '$lib/data/api';
import { prepareSnapshot, valueSnapshot } from '$lib/data/client';
import { Loaded } from '$lib/data/loaded.svelte';
import { lastBarIndex } from '$lib/data/measures';
import type { LoadedSnapshot } from '$lib/data/snapshot';
import type { Valued } from '$lib/data/valued';
import type { KnownExpiry } from '$lib/film/frame';
import type { Address } from './address.svelte';
import type { LiveFeed } from './live.svelte';
import type { MarketStore } from './market.svelte';
import type { MomentStore } from './moment.svelte';
import type { Playback } from './playback.svelte';
import { pricingTerms, type PricingAsked } from './pricing';

/** Idle delay before what may be wanted next is loaded. */
const IDLE_MS = 120;

/** What is shown: the quotes of the moment in view, valued under the basis, and those of the ghost. */
export class SnapshotStore {
  /** What the address says of the bases. */
  private readonly asked: PricingAsked = $derived.by(() => {
    const { manual, realizedBy, realizedWindow, pastLaw, drift } = this.address.context;
    return { manual: { ...manual }, realizedBy, realizedWindow, pastLaw, drift };
  });
  private readonly valuing = new Loaded<Valued>(() => this.ask());
  private readonly ghosts = new Loaded(() => {
    const { current } = this.market;
    const summary = current?.snapshots[this.moment.ghostIndex];
    return current && summary ? loadSnapshot(current.symbol, summary.asof) : null;
  });
  /** What can be shown: values of another symbol are of no use while the new one loads. */
  readonly shown = $derived.by(() => {
    const valued = this.valuing.value;
    return valued?.snapshot.symbol === this.address.context.symbol ? valued : null;
  });
  /** The snapshot that is shown: the same one while only its values change, and what depends on it with it. */
  readonly snapshot = $derived(this.shown?.snapshot ?? null);
  /** The ghost of what is in view. */
  readonly ghost = $derived.by(() => {
    const ghost = this.ghosts.value;
    return ghost?.symbol === this.address.context.symbol ? ghost : null;
  });
  /** The last bar of the moment whose quotes are shown, which rests while curves play. */
  readonly lastBar = $derived.by(() => {
    const { current, calendar } = this.market;
    return this.snapshot && current ? lastBarIndex(calendar, current.history, this.snapshot.instant) : -1;
  });
  /** The expiries of the moment whose quotes are shown. */
  readonly quoted: readonly ExpiryFit[] = $derived(this.snapshot?.slices.map(({ fit }) => fit) ?? []);
  /** The expiries in view: those that play, or those whose quotes are shown. */
  readonly expiries: readonly KnownExpiry[] = $derived.by(() => this.playback.frame?.expiries ?? this.quoted);
  readonly problem = $derived(this.valuing.problem ?? this.ghosts.problem);

  constructor(
    private readonly address: Address,
    private readonly market: MarketStore,
    private readonly moment: MomentStore,
    private readonly playback: Playback,
    private readonly feed: LiveFeed,
  ) {
    $effect(() => this.followNeighbours());
    $effect(() => this.followBases());
  }

  /** Whether what is drawn is the moment in view. */
  get isDrawn(): boolean {
    return this.valuing.value?.snapshot.asof === this.moment.stored?.asof;
  }

  /** Shows something else in place of what is shown, unless that has been followed by something newer. */
  replace(shown: Valued, by: Valued): void {
    if (this.shown === shown) this.valuing.value = by;
  }

  private ask(): Promise<Valued> | undefined {
    const { current, underlying, bars, calendar, edition } = this.market;
    const { live, stored } = this.moment;
    const { basis, quotes } = this.address.context;
    const { asked } = this;
    void edition;
    // What plays from curves alone leaves the quotes for when it rests.
    if (this.playback.frame) return;
    const moment = live?.asof ?? stored?.asof;
    if (!current || moment === undefined || !underlying || !bars) return;
    const { symbol, history } = current;
    const work = async (): Promise<Valued> => {
      const snapshot = live ?? (await loadSnapshot(symbol, moment));
      const lastBar = lastBarIndex(calendar, history, snapshot.instant);
      const terms = pricingTerms(snapshot, bars, lastBar, asked);
      const values = await valueSnapshot(snapshot, basis, terms, quotes);
      return { snapshot, values, basis, quotes, terms };
    };
    if (live) this.feed.hold();
    const working = work();
    // What the feed has sent in the meantime comes next: a slow page leaves moments out rather than falling behind.
    void working.catch(() => undefined).then(() => this.feed.release());
    return working;
  }

  /** Fetches the moments before and after the one in view, and lets the worker solve them: a step is likely. */
  private followNeighbours(): void {
    const { current } = this.market;
    const { index } = this.moment;
    if (!current || index < 0 || this.playback.frame) return;
    const { symbol, snapshots } = current;
    for (const neighbour of [snapshots[index + 1], snapshots[index - 1]]) {
      // A failure is reported when the step is taken.
      if (neighbour)
        loadSnapshot(symbol, neighbour.asof)
          .then(prepareSnapshot)
          .catch(() => undefined);
    }
  }

  /** Lets the worker go through the other bases after an idle delay: a change of basis is likely. */
  private followBases(): (() => void) | undefined {
    const { shown } = this;
    if (!shown || this.playback.isPlaying) return;
    const { snapshot, terms, quotes } = shown;
    // Sampling paths for every expiry is too much work to do in advance.
    const likely = BASES.filter((basis) => basis !== 'realized' || !terms.past);
    let isEnded = false;
    const work = async () => {
      for (const basis of likely) {
        if (isEnded) return;
        await valueSnapshot(snapshot, basis, terms, quotes);
      }
    };
    // A failure is reported when the basis is chosen.
    const timer = setTimeout(() => void work().catch(() => undefined), IDLE_MS);
    return () => {
      isEnded = true;
      clearTimeout(timer);
    };
  }
}

/** A snapshot that is shown in place of another: with one expiry changed. */
export function withFit(snapshot: LoadedSnapshot, at: number, fit: ExpiryFit): LoadedSnapshot {
  return { ...snapshot, slices: snapshot.slices.with(at, { ...snapshot.slices[at]!, fit }) };
}

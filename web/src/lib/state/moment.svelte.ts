import { dayOf } from '@umwelt/core';
import { ivRankAt, lastBarIndex, momentIndex, sessionStops, splitsAfter, stepAlong, valueOf } from '$lib/data/measures';
import type { Address } from './address.svelte';
import type { LiveFeed } from './live.svelte';
import type { MarketStore } from './market.svelte';

const GHOST_SESSIONS = 20;

/** The moment in view among those that are held, and the one that is kept beside it as its ghost. */
export class MomentStore {
  readonly index = $derived.by(() => {
    const { current } = this.market;
    return current ? momentIndex(current.snapshots, this.address.context.asof) : -1;
  });
  /** Where a step leads: the last moment of each session. */
  readonly stops = $derived.by(() => {
    const { current, calendar } = this.market;
    return current ? sessionStops(calendar, current.snapshots) : [];
  });
  /** The moment as it is held. */
  readonly stored = $derived.by(() => this.market.current?.snapshots[this.index] ?? null);
  /** The market of the feed, where the latest moment is in view and the feed is further on than what is held. */
  readonly live = $derived.by(() => {
    const { snapshot } = this.feed;
    const { asof, symbol } = this.address.context;
    if (asof !== null || snapshot?.symbol !== symbol) return null;
    return !this.stored || snapshot.instant >= Date.parse(this.stored.asof) ? snapshot : null;
  });
  /** Measures of the moment. */
  readonly summary = $derived(this.live?.measures ?? this.stored);
  readonly instant = $derived(this.summary ? Date.parse(this.summary.asof) : NaN);
  readonly rank = $derived.by(() => {
    const { current } = this.market;
    if (!current || this.index < 0) return null;
    const { snapshots } = current;
    if (!this.live) return ivRankAt(snapshots, this.stops, this.index);
    return ivRankAt([...snapshots, this.live.measures], this.stops, snapshots.length);
  });
  readonly lastBar = $derived.by(() => {
    const { current, calendar } = this.market;
    return current && this.summary ? lastBarIndex(calendar, current.history, this.instant) : -1;
  });
  /** Change of the price from the close before, in shares of the moment, as a share. */
  readonly change = $derived.by(() => {
    const { current, calendar } = this.market;
    const bar = current?.history[this.lastBar];
    if (!current || !bar) return NaN;
    const shares = splitsAfter(current.events, dayOf(calendar, this.instant))(bar.date);
    return ((this.summary?.price ?? NaN) * shares) / valueOf(bar, 'close') - 1;
  });
  readonly ghostIndex = $derived.by(() => {
    const { current } = this.market;
    const { ghost } = this.address.context;
    return current && ghost ? momentIndex(current.snapshots, ghost) : -1;
  });

  constructor(
    private readonly address: Address,
    private readonly market: MarketStore,
    private readonly feed: LiveFeed,
  ) {}

  /** Goes to a moment by its position. */
  goTo(index: number): void {
    const { snapshots } = this.market.current ?? { snapshots: [] };
    const summary = snapshots[index];
    if (summary) this.address.context.asof = index === snapshots.length - 1 ? null : summary.asof;
  }

  /** Steps by sessions, to the last moment of each; false at the end. */
  step(steps: number): boolean {
    return this.stepTo(stepAlong(this.stops, this.index, steps));
  }

  /** Steps by moments held, of which a session may have many; false at the end. */
  stepMoment(steps: number): boolean {
    const last = (this.market.current?.snapshots.length ?? 0) - 1;
    return this.stepTo(Math.max(0, Math.min(last, this.index + steps)));
  }

  private stepTo(next: number): boolean {
    if (!this.market.current || next < 0 || next === this.index) return false;
    this.goTo(next);
    return true;
  }

  /** Puts the ghost on a moment by its position, or takes it away. */
  setGhost(index: number | null): void {
    this.address.context.ghost = index === null ? null : (this.market.current?.snapshots[index]?.asof ?? null);
  }

  /** Puts the ghost four weeks back, or takes it away. */
  toggleGhost(): void {
    this.setGhost(this.address.context.ghost ? null : stepAlong(this.stops, this.index, -GHOST_SESSIONS));
  }
}

import { call } from '$lib/api/call';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { problemOf } from '$lib/data/loaded.svelte';
import { snapshotOfAnswer, type LoadedSnapshot } from '$lib/data/snapshot';

export type FeedState = z.infer<typeof schemas.FeedResponse>;
type FeedRequest = z.input<typeof schemas.FeedRequest>;
type Prices = z.infer<typeof schemas.StreamPrices>;

/** The simulated feed as a page sees it: where it stands, and the market between the moments that are stored. */
export class LiveFeed {
  state = $state.raw<FeedState | null>(null);
  prices = $state.raw<Prices | null>(null);
  snapshot = $state.raw<LoadedSnapshot | null>(null);
  /** What is wrong with the last thing that was asked of it. */
  problem = $state<string | null>(null);
  /** The newest snapshot that has come while the one before was being worked on. */
  private waiting: string | null = null;
  private isHeld = false;

  readonly isRunning = $derived(this.state?.status === 'running');
  readonly isBegun = $derived(this.state?.isBegun ?? false);
  /** A paused feed is read once, and again when its position changes. */
  private readonly standsAt = $derived(this.isRunning || !this.state ? '' : this.state.moment);

  /** Whether the page is visible; a hidden one does not listen. */
  private isVisible = $state(true);

  /**
   * @param symbol whose snapshots are wanted
   * @param onStored called when more of it has been stored, or all of it was taken back
   */
  constructor(
    symbol: () => string | null,
    private readonly onStored: () => void,
  ) {
    $effect(() => (this.isVisible ? this.listen(symbol()) : undefined));
    $effect(() => {
      const see = () => (this.isVisible = document.visibilityState === 'visible');
      document.addEventListener('visibilitychange', see);
      see();
      return () => document.removeEventListener('visibilitychange', see);
    });
  }

  /** Asks for its state. */
  async look(): Promise<void> {
    const state = await call('GET /feed').catch(() => null);
    if (state) this.take(state);
  }

  /** Resumes, pauses or restarts it. */
  async order(request: FeedRequest): Promise<void> {
    try {
      this.problem = null;
      this.take(await call('POST /feed', { body: request }));
    } catch (error) {
      this.problem = problemOf(error);
    }
  }

  private take(state: FeedState): void {
    const before = this.state;
    this.state = state;
    if (!state.isBegun) {
      this.prices = null;
      this.snapshot = null;
    }
    if (before && (before.storedTo !== state.storedTo || before.isBegun !== state.isBegun)) this.onStored();
  }

  /** Listens to it while it is of use; to be called in an effect. */
  private listen(symbol: string | null): (() => void) | undefined {
    const { isBegun, isRunning } = this;
    void this.standsAt;
    if (!isBegun || symbol === null) return;
    const source = new EventSource(`/api/v1/stream?symbols=${encodeURIComponent(symbol)}`);
    const on = (name: string, take: (text: string) => void) =>
      source.addEventListener(name, (event) => take((event as MessageEvent<string>).data));
    on('feed', (text) => this.take(JSON.parse(text) as FeedState));
    on('prices', (text) => (this.prices = JSON.parse(text) as Prices));
    on('snapshot', (text) => {
      this.waiting = text;
      this.handOver();
      if (!isRunning) source.close();
    });
    return () => {
      source.close();
      this.waiting = null;
    };
  }

  private handOver(): void {
    if (this.isHeld || this.waiting === null) return;
    const text = this.waiting;
    this.waiting = null;
    this.snapshot = snapshotOfAnswer(JSON.parse(text) as Parameters<typeof snapshotOfAnswer>[0]);
  }

  /** Called when a snapshot is being processed: a newer one waits. */
  hold(): void {
    this.isHeld = true;
  }

  /** Called when the next snapshot may be shown. */
  release(): void {
    this.isHeld = false;
    this.handOver();
  }
}

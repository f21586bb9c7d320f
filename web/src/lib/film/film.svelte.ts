import { loadCurves } from './load';
import { loadingOrder, type Frame } from './frame';
import { problemOf } from '$lib/data/loaded.svelte';

/** Moments in a request: a month of sessions. */
const REEL = 21;

/**
 * The curves of an underlying over its past, loaded piece by piece: first what lies ahead of the moment in view, then what
 * lies behind it. Without quotes a year takes a few hundred kilobytes, and every step of it is at hand.
 */
export class Film {
  /** @param past what else is to know the frames, and to forget them */
  constructor(private readonly past?: { add: (frames: Frame[]) => void; forget: () => void }) {}

  // The edition tells of changes: a reactive map would tell of each of hundreds.
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  private frames = new Map<string, { frame: Frame; strikes: number }>();
  private symbol = '';
  /** Raised with every piece that has come. */
  edition = $state(0);
  /** How much of what is wanted is here, 0…1. */
  share = $state(0);
  problem = $state<string | null>(null);

  /** The curves of a moment, or null while they are not here. */
  at(symbol: string | null, asof: string | undefined): Frame | null {
    void this.edition;
    return symbol === this.symbol && asof !== undefined ? (this.frames.get(asof)?.frame ?? null) : null;
  }

  /** The frames that are here of some moments, in their order. */
  of(symbol: string, asofs: readonly string[]): Frame[] {
    void this.edition;
    if (symbol !== this.symbol) return [];
    return asofs.flatMap((asof) => this.frames.get(asof)?.frame ?? []);
  }

  forget(): void {
    this.frames.clear();
    this.symbol = '';
    this.share = 0;
    this.past?.forget();
  }

  /**
   * Loads the frames of some moments that are not here: meant for an effect.
   *
   * @param asofs in order of time
   * @param step how they are told from the others that are held
   * @param at position of the moment in view
   * @param strikes how many listed strikes on either side of the forward are included
   * @returns what stops loading
   */
  follow(symbol: string, asofs: readonly string[], step: 'session' | 'moment', at: number, strikes = 0): () => void {
    if (symbol !== this.symbol) {
      this.forget();
      this.symbol = symbol;
    }
    const stop = new AbortController();
    void this.load(symbol, asofs, step, at, strikes, stop.signal);
    return () => stop.abort();
  }

  private async load(
    symbol: string,
    asofs: readonly string[],
    step: 'session' | 'moment',
    at: number,
    strikes: number,
    signal: AbortSignal,
  ): Promise<void> {
    const reels = Array.from({ length: Math.ceil(asofs.length / REEL) }, (_, i) =>
      asofs.slice(i * REEL, (i + 1) * REEL),
    );
    for (const [done, i] of loadingOrder(reels.length, Math.floor(Math.max(0, at) / REEL)).entries()) {
      const reel = reels[i]!;
      if (!reel.every((asof) => (this.frames.get(asof)?.strikes ?? -1) >= strikes)) {
        try {
          const frames = await loadCurves(symbol, reel[0]!, reel.at(-1)!, step, { strikes }, signal);
          if (signal.aborted) return;
          for (const frame of frames) this.frames.set(frame.asof, { frame, strikes });
          this.past?.add(frames);
          this.problem = null;
        } catch (error) {
          if (signal.aborted) return;
          this.problem = problemOf(error);
          return;
        }
        this.edition++;
      }
      this.share = (done + 1) / reels.length;
    }
  }
}

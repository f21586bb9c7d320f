import { untrack } from 'svelte';
import type { Context } from '$lib/address';

/** What is played: the moments of a workbench. */
interface Played {
  readonly context: Context;
  /** Positions of the last moments of the sessions. */
  readonly stops: readonly number[];
  readonly index: number;
  readonly current: { readonly snapshots: readonly unknown[] } | null;
  /** Whether the last step is in the picture. */
  readonly isDrawn: boolean;
  goTo(index: number): void;
}

/** A hand's breadth behind its time, what was missed is left out rather than caught up with. */
const MOST_BEHIND = 3;

/** Steps through the moments that are held at a steady pace. */
export class Player {
  isPlaying = $state(false);
  /** Positions of the moments that are stepped through, over all that is held. */
  readonly stops: readonly number[] = $derived.by(() => {
    const { current, stops, context } = this.played;
    return context.playStep === 'session' ? stops : [...(current?.snapshots.keys() ?? [])];
  });
  /** Those of the span that is chosen. */
  readonly span: readonly number[] = $derived.by(() => {
    const { stops, context } = this.played;
    const first = context.playSpan === 0 ? 0 : (stops.at(-context.playSpan - 1) ?? -1) + 1;
    return this.stops.filter((stop) => stop >= first);
  });

  constructor(private readonly played: Played) {}

  /** Starts or stops; from the end, or from outside the span, it starts over. */
  toggle(): void {
    const [first, last] = [this.span[0], this.span.at(-1)];
    if (first === undefined || last === undefined) return;
    const { index } = this.played;
    if (!this.isPlaying && (index >= last || index < first)) this.played.goTo(first);
    this.isPlaying = !this.isPlaying;
  }

  /** Plays as long as it is to: meant for an effect. */
  run(): (() => void) | undefined {
    if (!this.isPlaying) return;
    const interval = 1000 / this.played.context.speed;
    let due = performance.now() + interval;
    // Half a refresh early is nearer than half a refresh late.
    const TOLERANCE = 8;
    const tick = (now: number) => {
      frame = requestAnimationFrame(tick);
      if (now < due - TOLERANCE || !untrack(() => this.played.isDrawn)) return;
      due = Math.max(due + interval, now - MOST_BEHIND * interval);
      if (!untrack(() => this.advance())) this.isPlaying = false;
    };
    let frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }

  /** One step on; false at the end. */
  private advance(): boolean {
    const { span, played } = this;
    const next = span.find((stop) => stop > played.index);
    if (next === undefined && !played.context.isLooping) return false;
    const to = next ?? span[0];
    if (to === undefined || to === played.index) return false;
    played.goTo(to);
    return true;
  }
}

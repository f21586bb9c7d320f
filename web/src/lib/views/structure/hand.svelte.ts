import {
  alongStrikes,
  missingLeg,
  movedBy,
  nearestListed,
  placeLegs,
  rolled,
  scaled,
  split,
  withStrike,
  type NamedLeg,
  type PlacedLeg,
} from '@umwelt/core';
import { MOST_LEGS, Steps, type Workbench } from '$lib/state';
import { untrack } from 'svelte';

/** What is in hand. */
interface Held {
  symbol: string | null;
  legs: readonly NamedLeg[];
  held: number;
}

/** What a quantity in an address may be. */
const MOST_QUANTITY = 999_999;

/** The legs in hand with what is held of the underlying: where they are listed, what is done to them, and what was. */
export class Hand {
  /** What was done to the legs. */
  readonly steps = new Steps<Held>();
  /** While a leg is dragged its way is no step. */
  private isDragged = $state(false);

  constructor(private readonly bench: Workbench) {
    // Whatever changes the legs is a step: a button here, the keys of the Chain, the address.
    $effect(() => {
      const { symbol, legs, held } = bench.context;
      if (!this.isDragged) untrack(() => this.note({ symbol, legs, held }));
    });
  }

  readonly legs: readonly NamedLeg[] = $derived.by(() => this.bench.context.legs);

  private note(now: Held): void {
    if (this.steps.now && this.steps.now.symbol !== now.symbol) this.steps.restart(now);
    else this.steps.take(now);
  }

  /** Where the legs are listed; null where one of them is not. */
  readonly placed: readonly PlacedLeg[] | null = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    return snapshot && placeLegs(snapshot, this.legs);
  });

  /** The expiries that legs can stand in. */
  private readonly slices = $derived.by(() => this.bench.snapshot.snapshot?.slices ?? []);

  /** The first leg that is not listed at this moment. */
  readonly missing = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    return snapshot ? missingLeg(snapshot, this.legs) : undefined;
  });

  /** Where a leg is not listed: the legs that are, nearest to those in hand. */
  readonly nearest = $derived.by(() => (this.missing ? nearestListed(this.legs, this.slices) : null));

  /** Takes other legs in hand, unless there are none to take. */
  take(legs: readonly NamedLeg[] | null): void {
    if (legs) this.bench.context.legs = legs.slice(0, MOST_LEGS);
  }

  /** Turns every leg over. */
  reverse(): void {
    this.take(this.legs.map((leg) => ({ ...leg, quantity: -leg.quantity })));
    const { held } = this.bench.context;
    this.bench.context.held = held === 0 ? 0 : -held;
  }

  /** Lets all of it go. */
  clear(): void {
    this.take([]);
    this.bench.context.held = 0;
  }

  /** Makes a leg more or less; what comes to nothing goes. */
  change(at: number, by: number): void {
    this.take(
      this.legs.flatMap((leg, i) => {
        const quantity = leg.quantity + (i === at ? by : 0);
        return quantity === 0 ? [] : [{ ...leg, quantity }];
      }),
    );
  }

  /** The legs so many strikes on; null where they cannot go there. */
  alongStrikes(by: number): NamedLeg[] | null {
    return alongStrikes(this.legs, this.slices, by);
  }

  /** The legs, or one of them, in the next expiry or the one before; null where there is none. */
  rolled(by: 1 | -1, at?: number): NamedLeg[] | null {
    return rolled(this.legs, this.slices, by, at);
  }

  /** The legs with half of one on the next strike; null where it cannot be halved. */
  split(at: number): NamedLeg[] | null {
    return this.legs.length < MOST_LEGS ? split(this.legs, this.slices, at) : null;
  }

  /** The legs times a factor; null where they would not be whole. */
  scaled(factor: number): NamedLeg[] | null {
    return scaled(this.legs, factor, MOST_QUANTITY);
  }

  /**
   * Begins to drag a leg.
   *
   * @returns what takes it to a price, from where it began, and what lets it go
   */
  drag(at: number): { to: (price: number, isAlone: boolean) => void; end: () => void } {
    const { legs, slices } = this;
    this.isDragged = true;
    return {
      to: (price, isAlone) => this.take(withStrike(legs, slices, at, price, isAlone)),
      end: () => (this.isDragged = false),
    };
  }

  /**
   * Begins to drag all legs.
   *
   * @returns what takes them so far from where they began as their strikes allow, and what lets them go
   */
  dragAll(): { by: (distance: number) => void; end: () => void } {
    const { legs, slices } = this;
    this.isDragged = true;
    return { by: (distance) => this.take(movedBy(legs, slices, distance)), end: () => (this.isDragged = false) };
  }

  /** A leg one strike on. */
  nudge(at: number, by: number, isAlone: boolean): void {
    const leg = this.legs[at]!;
    const alone = alongStrikes([leg], this.slices, by);
    if (alone) this.take(withStrike(this.legs, this.slices, at, alone[0]!.strike, isAlone));
  }

  undo(): void {
    this.restore(this.steps.undo());
  }

  redo(): void {
    this.restore(this.steps.redo());
  }

  private restore(step: Held | null): void {
    if (!step) return;
    this.bench.context.legs = step.legs;
    this.bench.context.held = step.held;
  }
}

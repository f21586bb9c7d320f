import {
  alongStrikes,
  gathered,
  movedBy,
  nearestListed,
  placeLeg,
  rolled,
  scaled,
  split,
  withStrike,
  type Delivery,
  type NamedLeg,
  type PlacedLeg,
} from '@umwelt/core';
import { Loaded, loadSnapshot, MOST_LEGS, Steps, type Workbench } from '$lib/state';
import { untrack } from 'svelte';
import { PARAMS } from './params';

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

  /** Other deliveries of the root, by their symbols; none of what has no deliveries. */
  readonly siblings: readonly string[] = $derived.by(() => {
    const { underlying, universe } = this.bench.market;
    const root = underlying?.root;
    if (!root) return [];
    return (universe ?? []).flatMap((one) => (one.root === root && one.symbol !== underlying.symbol ? one.symbol : []));
  });

  /** The deliveries that legs name beside the one in view, as a text: legs that are dragged leave it as it is. */
  private readonly named = $derived.by(() => {
    const legs = [...this.legs, ...this.bench.address.of(PARAMS).before];
    return this.siblings.filter((symbol) => legs.some((leg) => leg.symbol === symbol)).join();
  });

  /** Their quotes at the moment in view. */
  private readonly further = new Loaded(() => {
    const { snapshot } = this.bench.snapshot;
    if (!snapshot || this.named === '') return null;
    return Promise.all(this.named.split(',').map((symbol) => loadSnapshot(symbol, snapshot.asof)));
  });

  readonly others: readonly Delivery[] = $derived.by(() => {
    const { snapshot } = this.bench.snapshot;
    const found = this.further.value;
    if (!snapshot || !found) return [];
    return found.map(({ symbol, price, slices }) => ({ symbol, ratio: price / snapshot.price, slices }));
  });

  /** A leg of what is no delivery of this root. */
  private readonly foreign = $derived.by(() => {
    const { underlying, universe } = this.bench.market;
    if (!underlying || !universe) return undefined;
    return this.legs.find(({ symbol }) => symbol !== underlying.symbol && !this.siblings.includes(symbol));
  });

  readonly problem = $derived.by(() =>
    this.foreign
      ? `Legs of ${this.bench.context.symbol} and of ${this.foreign.symbol} are not valued together: they are of no one root.`
      : this.further.problem,
  );

  /** Whether all legs are of the delivery in view. */
  readonly isOne = $derived.by(() => this.legs.every(({ symbol }) => symbol === this.bench.context.symbol));

  /** Price of the delivery that a leg is of over that of the one in view. */
  ratioOf({ symbol }: NamedLeg): number {
    return this.others.find((one) => one.symbol === symbol)?.ratio ?? 1;
  }

  private marketOf({ symbol }: NamedLeg): Pick<Delivery, 'symbol' | 'slices'> | null {
    const { snapshot } = this.bench.snapshot;
    return snapshot?.symbol === symbol ? snapshot : (this.others.find((one) => one.symbol === symbol) ?? null);
  }

  /** Where legs are listed, each on its delivery; null where one of them is not. */
  place(legs: readonly NamedLeg[]): readonly PlacedLeg[] | null {
    const placed = legs.map((leg) => {
      const market = this.marketOf(leg);
      return market && placeLeg(market, leg);
    });
    return placed.every((leg) => leg !== null) ? placed : null;
  }

  /** Years to the expiries of legs that are listed. */
  yearsOf(legs: readonly PlacedLeg[]): number[] {
    return legs.map((leg) => this.marketOf(leg)?.slices[leg.slice]!.fit.years ?? NaN);
  }

  /** Where the legs are listed; null where one of them is not. */
  readonly placed: readonly PlacedLeg[] | null = $derived.by(() => this.place(this.legs));

  /** The expiries that legs can stand in. */
  private readonly slices = $derived.by(() => this.bench.snapshot.snapshot?.slices ?? []);

  /** The first leg that is not listed at this moment. */
  readonly missing = $derived.by(() =>
    this.legs.find((leg) => {
      const market = this.marketOf(leg);
      return market ? !placeLeg(market, leg) : false;
    }),
  );

  /** Where a leg is not listed: the legs that are, nearest to those in hand. */
  readonly nearest = $derived.by(() => {
    if (!this.missing) return null;
    const legs = this.legs.flatMap((leg) => nearestListed([leg], this.marketOf(leg)?.slices ?? []) ?? []);
    return legs.length === this.legs.length ? gathered(legs) : null;
  });

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
    return this.isOne ? alongStrikes(this.legs, this.slices, by) : null;
  }

  /** The legs, or one of them, in the next expiry or the one before; null where there is none. */
  rolled(by: 1 | -1, at?: number): NamedLeg[] | null {
    return this.isOne ? rolled(this.legs, this.slices, by, at) : null;
  }

  /** The legs with half of one on the next strike; null where it cannot be halved. */
  split(at: number): NamedLeg[] | null {
    return this.isOne && this.legs.length < MOST_LEGS ? split(this.legs, this.slices, at) : null;
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
    const { legs } = this;
    this.isDragged = true;
    return {
      to: (price, isAlone) => this.struck(legs, at, price * this.ratioOf(legs[at]!), isAlone),
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
    const by = (distance: number) => this.isOne && this.take(movedBy(legs, slices, distance));
    return { by, end: () => (this.isDragged = false) };
  }

  /** A leg one strike on. */
  nudge(at: number, by: number, isAlone: boolean): void {
    const leg = this.legs[at]!;
    const alone = alongStrikes([leg], this.marketOf(leg)?.slices ?? [], by);
    if (alone) this.struck(this.legs, at, alone[0]!.strike, isAlone);
  }

  /** Takes legs with one of them on the strike nearest to a level; among several deliveries it goes alone. */
  private struck(legs: readonly NamedLeg[], at: number, level: number, isAlone: boolean): void {
    if (this.isOne) return this.take(withStrike(legs, this.slices, at, level, isAlone));
    const leg = legs[at]!;
    const [moved] = withStrike([leg], this.marketOf(leg)?.slices ?? [], 0, level, true) ?? [];
    if (moved) this.take(legs.map((one, i) => (i === at ? moved : one)));
  }

  /** Takes a leg to another delivery: its nearest expiry, and the strike that is as far from the price there. */
  async deliver(at: number, symbol: string): Promise<void> {
    const { snapshot } = this.bench.snapshot;
    const leg = this.legs[at];
    if (!snapshot || !leg) return;
    const there = symbol === snapshot.symbol ? snapshot : await loadSnapshot(symbol, snapshot.asof);
    const strike = (leg.strike * there.price) / (this.ratioOf(leg) * snapshot.price);
    const moved = nearestListed([{ ...leg, symbol, strike }], there.slices)?.[0];
    if (moved) this.take(this.legs.map((one, i) => (i === at ? moved : one)));
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

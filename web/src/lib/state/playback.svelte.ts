import { untrack } from 'svelte';
import { addToPast, forgetPast } from '$lib/film/client';
import { Film } from '$lib/film/film.svelte';
import type { Frame } from '$lib/film/frame';
import type { Address } from './address.svelte';
import type { MarketStore } from './market.svelte';
import type { MomentStore } from './moment.svelte';

/** Steps behind from which on the missed ones are skipped, not caught up. */
const MOST_BEHIND = 3;
/** Half a screen refresh: a step this early is closer to its time than at the next refresh. */
const TOLERANCE_MS = 8;

/** Steps through the moments that are held at a steady pace, from curves alone where views can be drawn from them. */
export class Playback {
  isPlaying = $state(false);
  /** Curves of the past, without their quotes; loaded while a view wants them. */
  readonly film = new Film({ add: addToPast, forget: forgetPast });
  /** Views that can be drawn from curves alone, by how many listed strikes either side of the forward they need. */
  private wanters = $state.raw<readonly (() => number)[]>([]);
  private readonly isFilmWanted = $derived(this.wanters.length > 0);
  private readonly strikesWanted = $derived(Math.max(0, ...this.wanters.map((strikes) => strikes())));
  /** Positions of the moments that are stepped through, over all that is held. */
  readonly stops: readonly number[] = $derived.by(() =>
    this.address.context.playStep === 'session'
      ? this.moment.stops
      : [...(this.market.current?.snapshots.keys() ?? [])],
  );
  /** Those of the span that is chosen. */
  readonly span: readonly number[] = $derived.by(() => {
    const { playSpan } = this.address.context;
    const first = playSpan === 0 ? 0 : (this.moment.stops.at(-playSpan - 1) ?? -1) + 1;
    return this.stops.filter((stop) => stop >= first);
  });
  /** The curves of the moment in view during playback, which shows curves alone; null otherwise, when quotes are shown. */
  readonly frame: Frame | null = $derived.by(() =>
    this.isFilmWanted && this.isPlaying ? this.film.at(this.address.context.symbol, this.moment.stored?.asof) : null,
  );
  /** The curves of the whole span during playback, which the axes must hold; empty otherwise. */
  readonly played: readonly Frame[] = $derived.by(() => {
    const { current } = this.market;
    if (!this.isPlaying || !current) return [];
    const { symbol, snapshots } = current;
    return this.film.of(
      symbol,
      this.span.map((stop) => snapshots[stop]!.asof),
    );
  });

  /** @param areQuotesDrawn whether the quotes of the moment in view are in the picture */
  constructor(
    private readonly address: Address,
    private readonly market: MarketStore,
    private readonly moment: MomentStore,
    private readonly areQuotesDrawn: () => boolean,
  ) {
    $effect(() => this.run());
    $effect(() => (this.isFilmWanted && this.market.current ? this.followFilm() : undefined));
  }

  /**
   * Wants the curves of the past, until what it gives back is called: meant for an effect. One view may come before the one
   * that it replaces has gone.
   *
   * @param strikes how many listed strikes either side of the forward have to be known
   */
  wantFilm(strikes: () => number = () => 0): () => void {
    const wanter = () => strikes();
    untrack(() => (this.wanters = [...this.wanters, wanter]));
    return () => untrack(() => (this.wanters = this.wanters.filter((one) => one !== wanter)));
  }

  private followFilm(): () => void {
    const { symbol, snapshots } = this.market.current!;
    const { stops } = this;
    const at = untrack(() => stops.findLastIndex((stop) => stop <= this.moment.index));
    const asofs = stops.map((stop) => snapshots[stop]!.asof);
    return this.film.follow(symbol, asofs, this.address.context.playStep, at, this.strikesWanted);
  }

  /** Whether the last step has been drawn, so that the next may follow. */
  private get isDrawn(): boolean {
    return this.isFilmWanted && !this.film.problem ? this.frame !== null : this.areQuotesDrawn();
  }

  /** Starts or stops; from the end, or from outside the span, it starts over. */
  toggle(): void {
    const [first, last] = [this.span[0], this.span.at(-1)];
    if (first === undefined || last === undefined) return;
    const { index } = this.moment;
    if (!this.isPlaying && (index >= last || index < first)) this.moment.goTo(first);
    this.isPlaying = !this.isPlaying;
  }

  /** Runs playback while it is on; to be called in an effect. */
  private run(): (() => void) | undefined {
    if (!this.isPlaying) return;
    const interval = 1000 / this.address.context.speed;
    let due = performance.now() + interval;
    const tick = (now: number) => {
      frame = requestAnimationFrame(tick);
      if (now < due - TOLERANCE_MS || !untrack(() => this.isDrawn)) return;
      due = Math.max(due + interval, now - MOST_BEHIND * interval);
      if (!untrack(() => this.advance())) this.isPlaying = false;
    };
    let frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }

  /** One step on; false at the end. */
  private advance(): boolean {
    const { span, moment } = this;
    const next = span.find((stop) => stop > moment.index);
    if (next === undefined && !this.address.context.isLooping) return false;
    const to = next ?? span[0];
    if (to === undefined || to === moment.index) return false;
    moment.goTo(to);
    return true;
  }
}

import { untrack } from 'svelte';
import { type Beside } from './charts/beside';
import { Film } from '$lib/film/film.svelte';
import { usedExpiries } from '$lib/film';
import type { Workbench } from '$lib/state';
import { isInverse } from './inverse';
import { PARAMS, type SurfaceParams } from './params';

/** Curves of other underlyings at the moment in view, which are drawn beside those of the one in view. */
export class Comparison {
  private readonly params: SurfaceParams;
  private films = $state.raw<{ symbol: string; at: number; film: Film }[]>([]);
  /** Those of the data in view, which are kept when another one is compared. */
  private held: { edition: number; of: Record<string, Film> } = { edition: -1, of: {} };
  readonly beside: readonly Beside[] = $derived.by(() => {
    const { summary } = this.bench.moment;
    const { frame } = this.bench.playback;
    const { shown } = this.bench.snapshot;
    const asof = summary?.asof;
    const own = frame?.expiries[0] ?? shown?.snapshot.slices[0]?.fit;
    return this.films.flatMap(({ symbol, at, film }) => {
      const found = film.at(symbol, asof);
      if (!found) return [];
      const expiries = usedExpiries(found);
      const kinds = [this.bench.market.underlying?.kind, this.kindOf(symbol)] as const;
      return [{ symbol, at, expiries, isMirrored: isInverse(kinds, [own?.forward, expiries[0]?.forward]) }];
    });
  });
  /** What is still to come, or what has gone wrong. */
  readonly words: string = $derived.by(() => {
    const missing = this.films.filter(({ symbol }) => !this.beside.some((one) => one.symbol === symbol));
    const [first] = missing;
    if (!first) return '';
    if (first.film.problem) return first.film.problem;
    return first.film.share === 1 ? `${first.symbol} has no curves at this moment` : `${first.symbol} is loading …`;
  });

  constructor(private readonly bench: Workbench) {
    this.params = bench.address.of(PARAMS);
    $effect(() => {
      const { current, edition } = bench.market;
      const { context, playback } = bench;
      if (!current) return;
      const { snapshots } = current;
      const asofs = playback.stops.map((stop) => snapshots[stop]!.asof);
      const at = untrack(() => playback.stops.findLastIndex((stop) => stop <= bench.moment.index));
      if (this.held.edition !== edition) this.held = { edition, of: {} };
      const { of } = this.held;
      const films = this.params.beside
        .filter((symbol) => symbol !== current.symbol)
        .map((symbol, position) => ({ symbol, at: position, film: (of[symbol] ??= new Film()) }));
      const stops = films.map(({ symbol, film }) => film.follow(symbol, asofs, context.playStep, at));
      this.films = films;
      return () => stops.forEach((stop) => stop());
    });
  }

  private kindOf(symbol: string): string | undefined {
    return this.bench.market.universe?.find((row) => row.symbol === symbol)?.kind;
  }
}

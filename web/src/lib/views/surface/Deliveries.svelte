<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import {
    deliveriesFigure,
    deliveriesMoving,
    deliveriesOf,
    deliveriesSentence,
    holdDeliveries,
    type Delivery,
  } from './charts/deliveries';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { loadSummaries, loadUniverse, momentIndex, useTheme, useWorkbench, type UniverseRow } from '$lib/state';
  import type { Summary } from '$lib/data';

  const bench = useWorkbench();
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange(), days: new HeldRange() };

  let rows = $state.raw<{ rows: UniverseRow[]; instant: number } | null>(null);
  let ghostRows = $state.raw<{ rows: UniverseRow[]; instant: number } | null>(null);
  let problem = $state<string | null>(null);

  const root = $derived(bench.market.underlying?.root ?? '');
  const siblings = $derived((bench.market.universe ?? []).filter((row) => row.root === root));

  function follow<T>(loading: Promise<T>, take: (found: T) => void): () => void {
    let isWanted = true;
    loading.then(
      (found) => {
        if (!isWanted) return;
        problem = null;
        take(found);
      },
      (error: Error) => {
        if (isWanted) problem = error.message;
      },
    );
    return () => (isWanted = false);
  }
  $effect(() => {
    void bench.market.edition;
    // What plays has measures of all moments at hand.
    if (bench.playback.isPlaying) return;
    const { asof } = bench.context;
    const instant = asof ? Date.parse(asof) : bench.moment.instant;
    return follow(loadUniverse(asof), (found) => (rows = { rows: found, instant }));
  });
  $effect(() => {
    void bench.market.edition;
    const { ghost } = bench.context;
    if (!ghost) {
      ghostRows = null;
      return;
    }
    return follow(loadUniverse(ghost), (found) => (ghostRows = { rows: found, instant: Date.parse(ghost) }));
  });

  /** Measures of all moments of every delivery; loaded when it first plays. */
  let past = $state.raw<{ row: UniverseRow; snapshots: Summary[]; at: Map<string, Summary> }[]>([]);
  $effect(() => {
    void bench.market.edition;
    if (!bench.playback.isPlaying) return;
    const wanted = siblings;
    const loading = Promise.all(
      wanted.map(async (row) => {
        const snapshots = await loadSummaries(row.symbol);
        return { row, snapshots, at: new Map(snapshots.map((one) => [one.asof, one])) };
      }),
    );
    return follow(loading, (found) => (past = found));
  });
  function deliveriesAt(asof: string): Delivery[] {
    const then = past.map(({ row, snapshots, at }) => {
      // Most deliveries are held at the same moments; looking for the one before takes longer.
      const { price = null, iv30 = null } = at.get(asof) ?? snapshots[momentIndex(snapshots, asof)] ?? {};
      return { ...row, price, iv30 };
    });
    return deliveriesOf(then, root, Date.parse(asof));
  }

  const still = $derived(rows ? deliveriesOf(rows.rows, root, rows.instant) : []);
  const playing = $derived(bench.playback.frame && past.length > 0 ? deliveriesAt(bench.playback.frame.asof) : null);
  const deliveries = $derived(playing ?? still);
  const ghost = $derived(ghostRows ? deliveriesOf(ghostRows.rows, root, ghostRows.instant) : []);
  /** Another one whenever the axes were made to hold what plays. */
  const held = $derived.by(() => {
    const { played } = bench.playback;
    if (past.length > 0) {
      const all = played.flatMap(({ asof }) => deliveriesAt(asof));
      if (all.length > 0) holdDeliveries({ ranges, root }, all);
    }
    return {};
  });
  const figure = $derived.by(() => {
    void held;
    if (still.length === 0) return null;
    const { decimals } = bench.market;
    const symbol = bench.context.symbol ?? '';
    return deliveriesFigure({ deliveries: still, ghost, root, symbol, decimals, tokens: theme.tokens, ranges });
  });
  const moving = $derived(playing ? deliveriesMoving(playing, ghost, theme.tokens) : null);
</script>

{#if figure}
  <div class="flex justify-around px-3 text-[11px] text-soft"><span>price by days</span><span>iv30 by days</span></div>
  <div class="flex min-h-0 flex-1 px-2">
    <Chart
      {figure}
      {moving}
      name="deliveries"
      label="Deliveries of {root}"
      onchoose={([symbol]) => typeof symbol === 'string' && bench.market.choose(symbol)}
    />
  </div>
  <div class="p-2 pt-1"><Sentence sentence={deliveriesSentence(deliveries)} /></div>
{:else}
  <p class="m-auto p-3 text-soft">{problem ?? (rows ? 'No delivery has a price at this moment.' : 'Loading …')}</p>
{/if}

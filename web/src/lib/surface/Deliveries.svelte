<script lang="ts">
  import { Chart, deliveriesFigure, deliveriesOf, deliveriesSentence, HeldRange } from '$lib/charts';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { loadUniverse, useTheme, useWorkbench, type UniverseRow } from '$lib/state';

  const bench = useWorkbench();
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };

  let rows = $state.raw<{ rows: UniverseRow[]; instant: number } | null>(null);
  let ghostRows = $state.raw<{ rows: UniverseRow[]; instant: number } | null>(null);
  let problem = $state<string | null>(null);

  function follow(asof: string | null, take: (found: typeof rows) => void): (() => void) | undefined {
    void bench.edition;
    let isWanted = true;
    const instant = asof ? Date.parse(asof) : bench.instant;
    loadUniverse(asof).then(
      (found) => {
        if (isWanted) take({ rows: found, instant });
      },
      (error: Error) => {
        if (isWanted) problem = error.message;
      },
    );
    return () => (isWanted = false);
  }
  $effect(() => {
    // The prices of all follow when it rests.
    if (bench.player.isPlaying) return;
    return follow(bench.context.asof, (found) => (rows = found));
  });
  $effect(() => {
    if (!bench.context.ghost) {
      ghostRows = null;
      return;
    }
    return follow(bench.context.ghost, (found) => (ghostRows = found));
  });

  const root = $derived(bench.underlying?.root ?? '');
  const deliveries = $derived(rows ? deliveriesOf(rows.rows, root, rows.instant) : []);
  const figure = $derived(
    deliveries.length > 0
      ? deliveriesFigure({
          deliveries,
          ghost: ghostRows ? deliveriesOf(ghostRows.rows, root, ghostRows.instant) : [],
          symbol: bench.context.symbol ?? '',
          decimals: bench.decimals,
          tokens: theme.tokens,
          ranges,
        })
      : null,
  );
</script>

{#if figure}
  <div class="flex justify-around px-3 text-[11px] text-soft"><span>price by days</span><span>iv30 by days</span></div>
  <div class="flex min-h-0 flex-1 px-2">
    <Chart
      {figure}
      name="deliveries"
      label="Deliveries of {root}"
      onchoose={([symbol]) => typeof symbol === 'string' && bench.choose(symbol)}
    />
  </div>
  <div class="p-2 pt-1"><Sentence sentence={deliveriesSentence(deliveries)} /></div>
{:else}
  <p class="m-auto p-3 text-soft">{problem ?? (rows ? 'No delivery has a price at this moment.' : 'Loading …')}</p>
{/if}

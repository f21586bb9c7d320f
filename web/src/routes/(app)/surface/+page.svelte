<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { useWorkbench, useParams } from '$lib/state';
  import {
    Comparison,
    LowerPanel,
    MapPanel,
    MeasuresPanel,
    PairsPanel,
    focusAt,
    SkewPanel,
    Strip,
    TermPanel,
  } from '$lib/views/surface';
  import { expiriesTable } from '$lib/tables';
  import { PARAMS } from '$lib/views/surface/params';
  import { Split } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const comparison = new Comparison(bench);

  /** Listed strikes either side of the forward that the film brings at least: another distance asks for nothing new. */
  const MOST_STEPS = 10;

  // Only pairs in listed strikes have to know which strikes were listed.
  $effect(() =>
    bench.playback.wantFilm(() =>
      params.main === 'pairs' && params.pairUnit === 'steps' ? Math.max(MOST_STEPS, params.pairSize) : 0,
    ),
  );

  offerTable(
    'expiries',
    () => `Expiries of ${bench.context.symbol}`,
    () => (bench.snapshot.shown ? expiriesTable(bench.snapshot.shown.snapshot) : null),
  );

  function choose(mark: unknown[]): void {
    const change = focusAt(mark);
    if (change) bench.focus.set(change);
  }
</script>

{#snippet main()}
  {#if params.main === 'map'}
    <MapPanel onexpiry={choose} />
  {:else if params.main === 'pairs'}
    <PairsPanel />
  {:else if params.main === 'measures'}
    <MeasuresPanel />
  {:else}
    <SkewPanel onexpiry={choose} {comparison} />
  {/if}
{/snippet}
{#snippet term()}<TermPanel onexpiry={choose} beside={comparison.beside} />{/snippet}
{#snippet lower()}<LowerPanel />{/snippet}
{#snippet side()}
  <Split
    id="surface-side"
    direction="vertical"
    label="Height of the term structure"
    size={55}
    first={term}
    second={lower}
  />
{/snippet}

<div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
  <Split
    id="surface"
    direction="horizontal"
    label="Width of the main panel"
    size={60}
    least={[30, 25]}
    first={main}
    second={side}
  />
  <Strip />
</div>

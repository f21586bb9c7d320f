<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { useWorkbench } from '$lib/state';
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

  const bench = useWorkbench();
  const comparison = new Comparison(bench);

  $effect(() => bench.wantFilm());

  offerTable(
    'expiries',
    () => `Expiries of ${bench.context.symbol}`,
    () => (bench.shown ? expiriesTable(bench.shown.snapshot) : null),
  );

  function choose(mark: unknown[]): void {
    const change = focusAt(mark);
    if (change) bench.setFocus(change);
  }
</script>

<div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
  <div class="flex min-h-0 flex-1 gap-2">
    <div class="flex min-h-0 min-w-0 flex-[7] xl:flex-[8]">
      {#if bench.context.surface === 'map'}
        <MapPanel onexpiry={choose} />
      {:else if bench.context.surface === 'pairs'}
        <PairsPanel />
      {:else if bench.context.surface === 'measures'}
        <MeasuresPanel />
      {:else}
        <SkewPanel onexpiry={choose} {comparison} />
      {/if}
    </div>
    <div class="flex min-h-0 min-w-0 flex-[5] flex-col gap-2">
      <TermPanel onexpiry={choose} beside={comparison.beside} />
      <LowerPanel />
    </div>
  </div>
  <Strip />
</div>

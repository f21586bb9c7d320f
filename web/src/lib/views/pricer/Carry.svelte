<script lang="ts">
  import { Chart } from '$lib/charts';
  import { useTheme, useWorkbench } from '$lib/state';
  import { carryFigure, carryPoints } from './carry';

  const bench = useWorkbench();
  const theme = useTheme();
  const points = $derived(
    bench.snapshot.shown && bench.market.current
      ? carryPoints(bench.snapshot.shown.snapshot, bench.market.current.events, bench.market.calendar)
      : [],
  );
  const figure = $derived(points.length > 0 ? carryFigure(points, theme.tokens) : null);
</script>

<div class="flex min-h-0 flex-1 flex-col px-3 pb-2">
  {#if figure}
    <Chart {figure} name="carry" label="Implied yield by expiry" />
    <p class="m-0 pt-1 text-[11px] text-soft">
      The yield that leads from the price to the forward by parity, early exercise taken out; the bars are what the
      spreads leave open. Less the cash dividends that are known it is borrow, or what is expected and not known.
    </p>
  {:else}
    <p class="m-auto text-soft">
      A future is its own forward, and without forwards by parity there is no implied yield.
    </p>
  {/if}
</div>

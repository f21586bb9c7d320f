<script lang="ts">
  import { Chart, densityFigure, densitySentence, HeldRange, lawsOfSlice } from '$lib/charts';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { shortDay } from '$lib/formats';
  import { useTheme, useWorkbench, valueOf } from '$lib/state';

  const bench = useWorkbench();
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };
  let isCumulative = $state(false);

  const slice = $derived(bench.shown && bench.lit ? bench.shown.snapshot.slices[bench.lit.slice]! : null);
  /** What was known at the moment in view. */
  const close = $derived(
    Float64Array.from((bench.current?.history ?? []).slice(0, bench.lastBar + 1), (row) =>
      valueOf(row, 'close'),
    ).filter((price) => price > 0),
  );
  const laws = $derived(slice ? lawsOfSlice(slice, close) : null);
  const figure = $derived(
    slice && laws ? densityFigure({ slice, isCumulative, tokens: theme.tokens, ranges }, laws) : null,
  );
</script>

{#if slice && laws && figure}
  <div class="flex items-center gap-2 px-3 text-[11px] text-soft">
    <span class="text-implied">— curve</span><span>··· lognormal</span>{#if laws.past}<span class="text-realized"
        >– – past moves</span
      >{/if}
    <span
      class="flex-1 truncate text-right"
      title={isCumulative ? 'odds of ending under a price' : 'odds in per cent for each per cent of move'}
      >{isCumulative ? '% under' : '% per % of move'}</span
    >
    <div class="toggle-group" role="group" aria-label="Law">
      <button aria-pressed={!isCumulative} onclick={() => (isCumulative = false)}>density</button>
      <button aria-pressed={isCumulative} onclick={() => (isCumulative = true)}>under</button>
    </div>
  </div>
  <div class="flex min-h-0 flex-1 px-2">
    <Chart {figure} name="density" label="Density of {shortDay(slice.expiry)}" />
  </div>
  <div class="p-2 pt-1"><Sentence sentence={densitySentence(laws, slice)} /></div>
{:else}
  <p class="m-auto text-soft">This expiry has no curve.</p>
{/if}

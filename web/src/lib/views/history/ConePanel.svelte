<script lang="ts">
  import { ESTIMATOR_CODES } from '@umwelt/core';
  import { Chart, HeldRange } from '$lib/charts';
  import { coneFigure, coneSentence } from './charts/cone';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import type { HistoryDesk } from './desk.svelte';
  import { PARAMS } from './params';
  import { Toggles } from '$lib/ui';

  let { desk }: { desk: HistoryDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };
  let isCorrected = $state(true);

  const code = $derived(ESTIMATOR_CODES[params.estimators[0]!]);
  const input = $derived({
    slices: desk.cone,
    isCorrected,
    term: desk.term,
    key: `${bench.context.symbol} ${code}`,
    tokens: theme.tokens,
    ranges,
  });
  const figure = $derived(desk.cone.some(({ count }) => count > 0) ? coneFigure(input) : null);
</script>

<div class="flex items-center gap-3 px-3 text-[11px] text-soft">
  <span class="text-realized">▒ {code} by window: all, 10 to 90 %, 25 to 75 %, the middle</span>
  <span>◇ now</span>
  <span class="text-implied">● implied at the money by sessions to expiry</span>
  <span class="flex-1"></span>
  <Toggles
    label="Overlapping windows"
    options={[true, false]}
    words={(one) => (one ? 'corrected' : 'as it was')}
    titles={(one) =>
      one
        ? 'windows overlap, so that they vary less than vols do: the spread is widened for it'
        : 'quantiles as they were'}
    bind:value={isCorrected}
  />
</div>
<div class="flex min-h-0 flex-1 px-2">
  {#if figure}
    <Chart {figure} name="cone" label="Cone of {bench.context.symbol}" />
  {:else}
    <p class="m-auto text-soft">{bench.problem ?? (desk.sessions ? 'Too few bars are held.' : 'Loading …')}</p>
  {/if}
</div>
<p class="m-0 text-center text-[11px] text-soft">sessions</p>
<div class="h-[62px] flex-none overflow-hidden p-2">
  {#if figure}<Sentence sentence={coneSentence(input)} />{/if}
</div>

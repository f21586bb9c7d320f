<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import { premiumFigure, premiumRows, premiumSentence } from './charts/premium';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import { DataGrid, type Head } from '$lib/ui';
  import { HORIZON, type HistoryDesk } from './desk.svelte';
  import { firstOf, IMPLIED_LABELS } from './sessions';
  import { PARAMS } from './params';

  let { desk }: { desk: HistoryDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };

  const name = $derived(IMPLIED_LABELS[params.implied[0]!]);
  const figure = $derived.by(() => {
    const { premium, sessions } = desk;
    if (!premium || !sessions) return null;
    const from = firstOf(sessions, 'held');
    return premiumFigure({
      dates: sessions.dates.slice(from),
      sessions: premium.sessions.slice(from),
      horizon: HORIZON,
      key: `${bench.context.symbol} ${name}`,
      tokens: theme.tokens,
      ranges,
    });
  });
  const rows = $derived(
    desk.premium
      ? premiumRows(desk.premium.summary, desk.premium.byRegime, {
          name: desk.lines!.historical[0]!.name,
          summary: desk.premium.against,
        })
      : [],
  );

  const HEADS: readonly Head[] = [
    { label: 'rank of implied', align: 'left' },
    { label: 'sessions' },
    { label: 'mean', title: `implied less what was realized in the ${HORIZON} sessions after, points` },
    { label: 'median' },
    { label: 'ratio, geom.', title: 'geometric mean of implied over realized: e to the mean of its logarithm' },
    { label: 'over', title: 'share of the sessions on which implied was over' },
  ];
</script>

<div class="flex min-h-0 flex-1 px-2">
  {#if figure}
    <Chart {figure} name="premium" label="Premium of {bench.context.symbol}" />
  {:else}
    <p class="m-auto text-soft">{bench.problem ?? 'Loading …'}</p>
  {/if}
</div>
<DataGrid
  label="Premium by rank of implied"
  heads={HEADS}
  {rows}
  keyOf={({ name }) => name}
  isDense
  area="mx-3 flex-none"
  testid="premium"
  rowClass="h-[22px]"
>
  {#snippet row({ name: regime, summary })}
    <td class="pr-2 text-[12px]">{regime}</td>
    <td class="cell">{figures.count(summary?.sessions ?? 0)}</td>
    <td class="cell {(summary?.mean ?? 0) < 0 ? 'text-loss' : 'text-gain'}">{figures.volChange(summary?.mean)}</td>
    <td class="cell">{figures.volChange(summary?.median)}</td>
    <td class="cell">{figures.fixed(summary?.ratio, 2)}</td>
    <td class="cell">{figures.percent(summary?.over, 0)}</td>
  {/snippet}
</DataGrid>
<div class="h-[62px] flex-none overflow-hidden p-2">
  {#if desk.premium}
    <Sentence
      sentence={premiumSentence(desk.premium.summary, desk.premium.byRegime, desk.premium.regime, name, HORIZON)}
    />
  {/if}
</div>

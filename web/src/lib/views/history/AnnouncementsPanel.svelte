<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { Chart, HeldRange } from '$lib/charts';
  import { aroundFigure } from './charts/around';
  import { figures, longMoment, momentDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import { announcedSentence, announcedTable, kindsOf } from './charts/announced';
  import { announcedBefore } from '$lib/data/events';
  import { PARAMS } from './params';
  import { DataGrid, Toggles, type Head } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  let days = $state<7 | 30>(7);

  const all = $derived(
    bench.market.current && bench.moment.summary
      ? announcedBefore(
          bench.market.current.events,
          bench.market.current.snapshots,
          bench.market.calendar,
          bench.moment.instant,
          days,
        )
      : [],
  );

  /** One kind alone, where there is such a one. */
  const kinds = $derived(kindsOf(all));
  const kind = $derived(kinds.includes(params.announced) ? params.announced : '');
  const rows = $derived(kind === '' ? all : all.filter((row) => row.kind === kind));

  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };
  const figure = $derived(
    rows.length > 0
      ? aroundFigure({
          paths: rows.map(({ title, instant, path }) => ({
            name: `${title}, ${momentDay(instant, bench.market.calendar.zone)}`,
            ...path,
          })),
          key: `${bench.context.symbol} ${days} ${kind}`,
          tokens: theme.tokens,
          ranges,
        })
      : null,
  );

  offerTable(
    'announcements',
    () => `Announcements of ${bench.context.symbol}`,
    () => (rows.length > 0 ? announcedTable(rows) : null),
  );

  const HEADS: readonly Head[] = [
    { label: 'when', align: 'left' },
    { label: 'what', align: 'left' },
    { label: 'before', title: 'implied at the last moment before' },
    { label: 'after', title: 'at the first moment after' },
    { label: 'change' },
    { label: 'expected ±', title: 'the straddle of the first expiry after it, as a share of the price' },
    { label: 'move', title: 'of the price between the two moments' },
    { label: 'times', title: 'size of the move over what was expected' },
    { label: 'half after, h', title: 'hours until half of the fall of the vol had happened, within four days' },
  ];
</script>

<div class="flex items-center gap-2 px-3 pb-1 text-[12px]">
  <span class="text-soft">implied before and after each, and the move against what the straddle expected</span>
  <span class="flex-1"></span>
  {#if kinds.length > 1}
    <select
      class="choice"
      aria-label="Kind of announcement"
      value={kind}
      onchange={(event) => (params.announced = event.currentTarget.value)}
    >
      <option value="">of all kinds</option>
      {#each kinds as one (one)}<option value={one}>{one}</option>{/each}
    </select>
  {/if}
  <Toggles label="Vol that is studied" options={[7, 30] as const} words={(one) => `${one} days`} bind:value={days} />
</div>
<DataGrid
  label="Announcements"
  heads={HEADS}
  {rows}
  keyOf={(row) => row.instant + row.title}
  isDense
  area="max-h-[45%] min-h-0 flex-none overflow-auto px-3"
  testid="announcements"
  rowClass="h-[24px]"
  onchoose={(row) => (bench.context.asof = new Date(row.before.instant).toISOString())}
  rowTitle="go to the moment before"
  none={bench.problem ??
    (bench.market.current ? 'No announcement of the past has moments before and after it.' : 'Loading …')}
>
  {#snippet row(row)}
    <td class="figures pr-2 text-[12px]! whitespace-nowrap">{longMoment(row.instant, bench.market.calendar.zone)}</td>
    <td class="pr-2 text-[12px]">{row.title}</td>
    <td class="cell">{figures.vol(row.before.vol)}</td>
    <td class="cell">{figures.vol(row.after.vol)}</td>
    <td class="cell {row.change < 0 ? 'text-loss' : 'text-gain'}">{figures.volChange(row.change)}</td>
    <td class="cell">{figures.percent(row.expected, 2)}</td>
    <td class="cell">{figures.percentChange(row.move, 2)}</td>
    <td class="cell {row.ratio > 1 ? 'font-semibold' : ''}">{figures.fixed(row.ratio, 2)}</td>
    <td class="cell">{figures.fixed(row.halfFall, 1)}</td>
  {/snippet}
</DataGrid>
<div class="flex min-h-0 flex-1 px-2 pt-2">
  {#if figure}<Chart {figure} name="around-announcements" label="The {days}-day vol around announcements" />{/if}
</div>
<div class="h-[62px] flex-none overflow-hidden p-2"><Sentence sentence={announcedSentence(rows, days)} /></div>

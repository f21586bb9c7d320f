<script lang="ts">
  import { expiryClass, isSameExpiry } from '@umwelt/core';
  import { depthColor, linePath } from '$lib/charts';
  import { offerTable } from '$lib/exports';
  import { figures, momentDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench } from '$lib/state';
  import { nextSorting, sortedRows, type Sorting } from '$lib/tables';
  import { DataGrid, type Head } from '$lib/ui';
  import { announcements } from './announcements';
  import { sessionsBefore } from './lookback';
  import MainTabs from './MainTabs.svelte';
  import { leanWords, MEASURE_ORDERS, measureRows, MEASURES, measuresSentence, measuresTable } from './measures';

  const bench = useWorkbench();
  const theme = useTheme();
  const SPARK = { width: 56, height: 15, sessions: 60 };
  let sorting = $state.raw<Sorting>([]);

  const ghost = $derived(bench.snapshot.ghost);
  const ahead = $derived(announcements(bench.market.current?.events ?? [], bench.market.calendar));
  const rows = $derived.by(() => {
    const { frame } = bench.playback;
    const { shown } = bench.snapshot;
    const { current } = bench.market;
    const instant = frame?.instant ?? shown?.snapshot.instant;
    if (instant === undefined || !current) return [];
    const past = bench.playback.film.of(
      current.symbol,
      sessionsBefore(bench.market.current, bench.moment).slice(-SPARK.sessions),
    );
    const then = ghost && { expiries: ghost.slices.map(({ fit }) => fit), events: ahead(ghost.instant) };
    return measureRows(bench.snapshot.expiries, ahead(instant), then, past);
  });
  const sorted = $derived(sorting.length > 0 ? sortedRows(rows, MEASURE_ORDERS, sorting) : rows);
  const ghostDay = $derived(ghost ? momentDay(ghost.instant, bench.market.calendar.zone) : null);
  const sentence = $derived(rows.length > 0 ? measuresSentence(rows, ghostDay) : null);
  const asof = $derived(bench.playback.frame?.asof ?? bench.snapshot.shown?.snapshot.asof ?? '');

  offerTable(
    'measures',
    () => `Measures of ${bench.context.symbol} by expiry`,
    () =>
      rows.length > 0
        ? measuresTable(sorted, { symbol: bench.context.symbol ?? '', asof }, bench.market.decimals)
        : null,
  );

  const spark = (values: readonly number[]) =>
    linePath(
      values,
      values.map((_, i) => (i * SPARK.width) / Math.max(1, values.length - 1)),
      1,
      SPARK.height - 1,
    );

  /** Whether a change would be seen in the figures. */
  const isChange = (text: string) => /[1-9]/.test(text);

  const isRowLit = ({ of }: (typeof rows)[number]) =>
    of !== null && bench.focus.lit !== null && isSameExpiry(of, bench.focus.lit);
  const heads = $derived<readonly Head[]>([
    { label: 'expiry', align: 'left', class: 'left-0 z-20!' },
    { label: 'days', title: 'calendar days', order: 'days' },
    { label: `${SPARK.sessions} sessions`, title: `vol at the money over the last ${SPARK.sessions} sessions` },
    ...MEASURES.map(({ id, label, title }) => ({ label, title, order: id })),
    { label: 'lean', title: 'which side is dear by more than half a point of RR 25' },
  ]);
</script>

<section class="panel min-h-0 min-w-0 flex-1" aria-label="Measures">
  <header class="flex items-center gap-2.5 px-3 pt-2 pb-1.5">
    <MainTabs />
    <span class="min-w-0 flex-1 truncate text-soft"
      >by expiry and at fixed days{ghostDay ? `; change since ${ghostDay}, and what it was` : ''}</span
    >
  </header>
  {#if rows.length === 0}
    <p class="p-6 text-center text-soft">
      {bench.problem ?? (bench.snapshot.shown ? 'No expiry in use has a curve at this moment.' : 'Loading …')}
    </p>
  {:else}
    <DataGrid
      label="Table of measures"
      {heads}
      rows={sorted}
      keyOf={({ key }) => key}
      isDense
      isEdged
      testid="measures"
      sort={sorting[0]}
      onsort={(id) => (sorting = nextSorting(sorting, id, id === 'days'))}
      isLit={isRowLit}
      canChoose={({ of }) => of !== null}
      onchoose={({ of }) => of && bench.focus.set(of)}
      rowClass={({ of }) => [ghost ? 'h-[36px]' : 'h-[24px]', of === null && 'text-soft']}
    >
      {#snippet row(row)}
        {@const isLit = isRowLit(row)}
        <td class="sticky left-0 z-10 pr-2 whitespace-nowrap {isLit ? 'bg-band' : 'bg-panel'}">
          <span
            class="mr-1 inline-block size-[9px] rounded-[2px]"
            style="background: {row.of ? depthColor(row.days, theme.tokens) : 'transparent'}"
          ></span><span class="figures">{row.name}</span>
          {#if row.borrowedFrom}<span class="text-implied" title="curve borrowed from {row.borrowedFrom}">⋯</span>{/if}
          {#if row.of}<span
              class="text-[11px] font-normal text-soft"
              title={expiryClass(bench.market.calendar, row.of.expiry)}
              >{expiryClass(bench.market.calendar, row.of.expiry).charAt(0)}</span
            >{/if}
        </td>
        <td class="cell">{figures.days(row.days)}</td>
        <td class="cell">
          <svg width={SPARK.width} height={SPARK.height} class="ml-auto block" aria-hidden="true">
            <path d={spark(row.spark)} fill="none" stroke="var(--implied)" stroke-width="1.1" />
          </svg>
        </td>
        {#each MEASURES as { id, write, change } (id)}
          {@const value = row.values[id]}
          {@const was = row.before?.[id] ?? NaN}
          <td class="cell pl-3!">
            {write(value, bench.market.decimals)}
            {#if ghost}
              {@const words = Number.isFinite(value - was) ? change(value - was, bench.market.decimals) : ''}
              <span class="block text-[10.5px]! font-normal text-soft"
                >{#if isChange(words)}<span class={value > was ? 'text-gain' : 'text-loss'}
                    >{value > was ? '▴' : '▾'}{words}</span
                  >{/if}
                {Number.isFinite(was) ? write(was, bench.market.decimals) : ''}&nbsp;</span
              >
            {/if}
          </td>
        {/each}
        <td class="cell font-[family-name:var(--font-sans)]">{leanWords(row.values.riskReversal25)}</td>
      {/snippet}
    </DataGrid>
  {/if}
  <div class="h-[78px] flex-none overflow-hidden p-2 xl:h-[62px]">
    {#if sentence}<Sentence {sentence} />{/if}
  </div>
</section>

<script lang="ts">
  import type { SortingState } from '@tanstack/table-core';
  import { goto } from '$app/navigation';
  import { offerTable } from '$lib/exports';
  import { figures, shortDay, universeSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { linePath } from '$lib/charts/line-path';
  import { positions } from '$lib/frame/tideline';
  import { loadUniverse, useWorkbench, type UniverseRow } from '$lib/state';
  import { gapOf, nextSorting, sortedUniverse, UNIVERSE_COLUMNS, universeTable, withPrices } from '$lib/tables';

  const bench = useWorkbench();

  let rows = $state.raw<UniverseRow[] | null>(null);
  let problem = $state<string | null>(null);
  let sorting = $state.raw<SortingState>([{ id: 'ivToHv', desc: true }]);

  $effect(() => {
    let isCurrent = true;
    void bench.edition;
    loadUniverse(bench.context.asof).then(
      (answer) => {
        if (!isCurrent) return;
        rows = answer;
        problem = null;
      },
      (error: Error) => {
        if (isCurrent) problem = error.message;
      },
    );
    return () => (isCurrent = false);
  });

  /** Prices go with the feed; what hangs on chains follows at every quarter of an hour that is stored. */
  const priced = $derived(rows && bench.context.asof === null ? withPrices(rows, bench.feed.prices) : rows);
  const sorted = $derived(priced ? sortedUniverse(priced, sorting) : []);
  const sessions = $derived(Math.max(0, ...(rows ?? []).map((row) => row.rankSessions ?? 0)));
  const sentence = $derived(rows && rows.length > 0 ? universeSentence(rows) : null);

  offerTable(
    'universe',
    () => 'Universe, in the order in view',
    () => (priced ? universeTable(sorted) : null),
  );

  function open(symbol: string): void {
    bench.choose(symbol);
    void goto(`/surface${bench.query}`);
  }

  const SPARK = { width: 84, height: 16 };

  function spark(series: readonly (number | null)[]): string {
    const xs = positions([...series.keys()], SPARK.width, 0);
    return linePath(
      series.map((value) => value ?? NaN),
      xs,
      0,
      SPARK.height,
    );
  }

  const stateWords: Record<string, string> = { contango: 'contango', backwardation: 'backward.', flat: 'flat' };
</script>

<section class="panel flex-1" aria-label="Universe">
  <header class="flex items-baseline gap-2.5 px-3 pt-2.5 pb-1.5">
    <h2 class="text-[15px] font-bold">Universe</h2>
    {#if rows}
      <span class="text-soft">
        {figures.counted(rows.length, 'underlying')} · rank and percentile of iv30 over the {figures.counted(
          sessions,
          'session',
        )} held, hv20 Yang–Zhang
      </span>
    {/if}
  </header>
  <div class="min-h-0 flex-1 overflow-auto">
    {#if problem}
      <p class="p-6 text-center text-loss" role="alert">{problem}</p>
    {:else if !rows}
      <p class="p-6 text-center text-soft">Loading …</p>
    {:else if rows.length === 0}
      <p class="mx-auto max-w-lg p-10 text-center text-soft">
        No underlying is held yet. Import files in the <a class="link" href="/data">Data</a> view, or with
        <code class="figures">npm run import -- FILE…</code>: first underlyings, then rates, dividends, bars and chains.
      </p>
    {:else}
      <table class="w-full border-collapse" data-testid="universe">
        <thead>
          <tr>
            {#each UNIVERSE_COLUMNS as column (column.id)}
              {@const sort = sorting[0]?.id === column.id ? sorting[0] : null}
              <th
                class="head-cell {column.id === 'symbol' ? 'pl-3! text-left!' : ''}"
                title={column.title}
                aria-sort={sort ? (sort.desc ? 'descending' : 'ascending') : 'none'}
              >
                <button
                  class="cursor-pointer {sort ? 'font-semibold text-ink' : ''}"
                  onclick={() => (sorting = nextSorting(sorting, column.id, column.id === 'symbol'))}
                >
                  {column.label}{sort ? (sort.desc ? ' ▾' : ' ▴') : ''}
                </button>
              </th>
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each sorted as row (row.symbol)}
            {@const gap = gapOf(row)}
            <tr
              class="h-[30px] cursor-pointer border-b border-line hover:bg-band {row.symbol === bench.context.symbol
                ? 'bg-band'
                : ''}"
              onclick={() => open(row.symbol)}
            >
              <td class="pl-3 whitespace-nowrap">
                <a
                  class="inline-block w-16 font-bold"
                  href="/surface{bench.query}"
                  onclick={(event) => {
                    event.preventDefault();
                    event.stopPropagation();
                    open(row.symbol);
                  }}>{row.symbol}</a
                >
                <span class="inline-block w-36 truncate align-bottom text-soft" title={row.name}>{row.name}</span>
              </td>
              <td class="cell">{figures.fixed(row.price, figures.decimalsOf(row.tick))}</td>
              <td class="cell {(row.change ?? 0) < 0 ? 'text-loss' : 'text-gain'}">
                {row.change === null ? '' : row.change < 0 ? '▼' : '▲'}
                {figures.percent(row.change === null ? null : Math.abs(row.change), 1)}
              </td>
              <td class="px-1.5 text-right">
                <svg width={SPARK.width} height={SPARK.height + 2} class="inline-block align-middle" aria-hidden="true">
                  <path
                    d={spark(row.series)}
                    transform="translate(0 1)"
                    fill="none"
                    stroke="var(--implied)"
                    stroke-width="1.2"
                  />
                </svg>
              </td>
              <td class="cell font-semibold text-implied">{figures.vol(row.iv30)}</td>
              {#each [row.rank, row.percentile] as share, i (i)}
                <td
                  class="cell relative"
                  title="over {figures.counted(row.rankSessions ?? 0, 'session')}, low {figures.vol(
                    row.low,
                  )}, high {figures.vol(row.high)}"
                >
                  <span class="absolute inset-y-[5px] left-0 bg-implied/20" style="width: {100 * (share ?? 0)}%"></span>
                  <span class="relative">{share === null ? figures.NOTHING : figures.fixed(100 * share, 0)}</span>
                </td>
              {/each}
              <td class="cell text-realized">{figures.vol(row.hv20)}</td>
              <td class="cell font-semibold">{figures.fixed(row.ivToHv, 2)}</td>
              <td class="cell">{figures.volChange(gap)}</td>
              <td class="cell"
                ><span class="font-sans">{row.termState ? stateWords[row.termState] : ''}</span>
                {figures.volChange(row.termSlope)}</td
              >
              <td class="cell">{figures.volChange(row.riskReversal25)}</td>
              <td
                class="cell"
                title={row.frontExpiry
                  ? `straddle of ${row.frontExpiry}; one deviation ${figures.plusMinus(row.frontDeviationMove, Math.max(2, figures.decimalsOf(row.tick)))}`
                  : ''}
              >
                {figures.plusMinus(row.frontStraddleMove, Math.max(2, figures.decimalsOf(row.tick)))}
                <span class="font-sans text-[11px] text-soft">{row.frontExpiry ? shortDay(row.frontExpiry) : ''}</span>
              </td>
              <td class="cell">{figures.count(row.volume)}</td>
              <td class="cell">{figures.count(row.openInterest)}</td>
              <td
                class="cell pr-3!"
                title="{figures.count(row.usable)} of {figures.counted(row.contracts ?? 0, 'contract')} usable"
                >{figures.count(Math.round(row.quality ?? NaN))}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  </div>
  {#if sentence}<div class="p-2.5"><Sentence {sentence} /></div>{/if}
</section>

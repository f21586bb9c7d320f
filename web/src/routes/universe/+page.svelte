<script lang="ts">
  import type { SortingState } from '@tanstack/table-core';
  import { goto } from '$app/navigation';
  import { offerTable } from '$lib/exports';
  import { figures, shortDay, universeSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { linePath } from '$lib/charts/line-path';
  import { positions } from '$lib/frame/tideline';
  import type { CheckedFormula } from '@umwelt/core';
  import X from '@lucide/svelte/icons/x';
  import {
    askScreen,
    FormulaInput,
    leftBy,
    limitText,
    ScreenMenu,
    screenOrders,
    screenText,
    WallPanel,
    withLimit,
    type LimitEnd,
    type ScreenAnswer,
  } from '$lib/screen';
  import { loadUniverse, MOST_FORMULAS, UNDERLYING_KINDS, useWorkbench, WALLS, type UniverseRow } from '$lib/state';
  import { gapOf, nextSorting, sortedRows, UNIVERSE_COLUMNS, universeTable, withPrices } from '$lib/tables';

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

  /** What the formulas are worth, with those that were asked for. */
  let answer = $state.raw<ScreenAnswer | null>(null);
  let screenProblem = $state<string | null>(null);
  $effect(() => {
    const { show, keep, asof } = bench.context;
    void bench.edition;
    if (show.length + keep.length === 0) {
      answer = null;
      screenProblem = null;
      return;
    }
    let isCurrent = true;
    askScreen(asof, show, keep).then(
      (found) => {
        if (!isCurrent) return;
        answer = found;
        screenProblem = null;
      },
      (error: Error) => {
        if (isCurrent) screenProblem = error.message;
      },
    );
    return () => (isCurrent = false);
  });
  /** Words of the name and the symbol that are looked for. */
  let sought = $state('');
  const passing = $derived(answer && leftBy(answer));
  const left = $derived(
    (priced ?? []).filter(
      ({ symbol, name, kind }) =>
        (passing?.has(symbol) ?? true) &&
        (bench.context.kinds.length === 0 || bench.context.kinds.includes(kind)) &&
        `${symbol} ${name}`.toLowerCase().includes(sought.trim().toLowerCase()),
    ),
  );
  const computed = $derived(answer?.columns ?? []);
  const sorted = $derived(sortedRows(left, [...UNIVERSE_COLUMNS, ...screenOrders(answer)], sorting));
  const valuesOf = $derived(new Map(answer?.rows.map((row) => [row.symbol, row.columns])));

  function add(formula: CheckedFormula): void {
    const list = formula.kind === 'truth' ? 'keep' : 'show';
    const held = bench.context[list];
    if (held.length < MOST_FORMULAS && !held.includes(formula.source)) bench.context[list] = [...held, formula.source];
  }

  /** Whether the heads have room for a least and a most. */
  let hasLimits = $state(false);

  function limit(column: (typeof UNIVERSE_COLUMNS)[number], end: LimitEnd, input: HTMLInputElement): void {
    const next = column.limit ? withLimit(bench.context.keep, column.limit, end, input.value) : null;
    input.setCustomValidity(next ? '' : 'a number is wanted');
    input.reportValidity();
    if (next) bench.context.keep = next.slice(0, MOST_FORMULAS);
  }

  function remove(list: 'show' | 'keep', formula: string): void {
    bench.context[list] = bench.context[list].filter((other) => other !== formula);
  }
  const sessions = $derived(Math.max(0, ...(rows ?? []).map((row) => row.rankSessions ?? 0)));
  const sentence = $derived(left.length > 0 ? universeSentence(left) : null);

  offerTable(
    'universe',
    () => 'Universe, in the order in view',
    () =>
      priced
        ? universeTable(
            sorted,
            computed.map(({ formula }, i) => ({
              formula,
              values: new Map([...valuesOf].map(([symbol, values]) => [symbol, values[i] ?? null])),
            })),
          )
        : null,
  );

  function open(symbol: string): void {
    bench.choose(symbol);
    void goto(`/surface${bench.query}`);
  }

  const WALL_NAMES = { none: 'table', vols: 'vols', term: 'term', price: 'price' } as const;
  const WALL_TITLES = {
    none: 'all measures as a table',
    vols: 'iv30 against hv20 over 120 sessions, a chart each',
    term: 'vols at the money from 7 to 360 days, a chart each',
    price: 'prices over 120 sessions, a chart each',
  } as const;

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
        {left.length === rows.length
          ? figures.counted(rows.length, 'underlying')
          : `${figures.count(left.length)} of ${figures.counted(rows.length, 'underlying')}`} · rank and percentile of iv30
        over the {figures.counted(sessions, 'session')} held, hv20 Yang–Zhang
      </span>
    {/if}
    <span class="flex-1"></span>
    {#if bench.context.wall !== 'none' && bench.context.wall !== 'price'}
      <div class="toggle-group" role="group" aria-label="Axes of the wall">
        <button
          aria-pressed={bench.context.isShared}
          title="one logarithmic scale for all"
          onclick={() => (bench.context.isShared = true)}>shared axes</button
        >
        <button aria-pressed={!bench.context.isShared} onclick={() => (bench.context.isShared = false)}>own axes</button
        >
      </div>
    {/if}
    <div class="toggle-group" role="group" aria-label="Table or wall">
      {#each WALLS as wall (wall)}
        <button
          aria-pressed={bench.context.wall === wall}
          title={WALL_TITLES[wall]}
          onclick={() => (bench.context.wall = wall)}>{WALL_NAMES[wall]}</button
        >
      {/each}
    </div>
  </header>
  <div class="flex items-start gap-2 px-3 pb-1 text-[12px]">
    <input
      class="w-32 rounded-[5px] border border-line bg-panel px-2 py-0.5 text-[12px]"
      placeholder="name or symbol"
      aria-label="Name or symbol"
      bind:value={sought}
    />
    <div class="toggle-group" role="group" aria-label="Kinds">
      {#each UNDERLYING_KINDS as kind (kind)}
        <button
          aria-pressed={bench.context.kinds.includes(kind)}
          onclick={() =>
            (bench.context.kinds = UNDERLYING_KINDS.filter(
              (other) => (other === kind) !== bench.context.kinds.includes(other),
            ))}>{kind}</button
        >
      {/each}
    </div>
    <div class="toggle-group" role="group" aria-label="Heads">
      <button
        aria-pressed={hasLimits}
        title="a least and a most under each head"
        onclick={() => (hasLimits = !hasLimits)}>limits</button
      >
    </div>
    <ScreenMenu />
    <FormulaInput onadd={add} />
  </div>
  {#if bench.context.show.length + bench.context.keep.length > 0}
    <ul class="m-0 flex list-none flex-wrap gap-1.5 p-0 px-3 pb-1.5" aria-label="Columns and conditions">
      {#each [...bench.context.keep.map( (formula) => ({ list: 'keep' as const, formula }) ), ...bench.context.show.map( (formula) => ({ list: 'show' as const, formula }) )] as { list, formula } (list + formula)}
        {@const removed = list === 'keep' ? answer?.filters.find((one) => one.formula === formula)?.removed : undefined}
        <li class="flex items-center gap-1.5 rounded border border-line bg-band px-1.5 text-[12px]">
          <span class="text-soft">{list === 'keep' ? 'only' : 'shows'}</span>
          <span class="figures text-[12px]!">{formula}</span>
          {#if removed !== undefined}<span class="text-soft" title="this condition alone leaves out so many"
              >leaves out {figures.count(removed)}</span
            >{/if}
          <button
            class="cursor-pointer text-soft hover:text-ink"
            aria-label="Remove {formula}"
            onclick={() => remove(list, formula)}><X size={11} /></button
          >
        </li>
      {/each}
    </ul>
  {/if}
  {#if screenProblem}<p class="m-0 px-3 pb-1 text-[12px] text-loss" role="alert">{screenProblem}</p>{/if}
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
    {:else if bench.context.wall !== 'none'}
      <WallPanel rows={sorted} wall={bench.context.wall} onopen={open} />
    {:else}
      <table class="w-full border-collapse" data-testid="universe">
        <thead>
          <tr>
            {#each UNIVERSE_COLUMNS as column (column.id)}
              {@const sort = sorting[0]?.id === column.id ? sorting[0] : null}
              <th
                class="head-cell {column.id === 'symbol' ? 'left-0 z-20! pl-3! text-left!' : ''}"
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
              {#if column.id === 'symbol'}
                {#each computed as { formula }, i (formula)}
                  {@const order = sorting[0]?.id === `formula${i}` ? sorting[0] : null}
                  <th
                    class="head-cell max-w-36"
                    title={formula}
                    aria-sort={order ? (order.desc ? 'descending' : 'ascending') : 'none'}
                  >
                    <button
                      class="max-w-36 cursor-pointer truncate {order ? 'font-semibold text-ink' : ''}"
                      onclick={() => (sorting = nextSorting(sorting, `formula${i}`, false))}
                      >{formula}{order ? (order.desc ? ' ▾' : ' ▴') : ''}</button
                    >
                  </th>
                {/each}
              {/if}
            {/each}
          </tr>
          {#if hasLimits}
            <tr>
              {#each UNIVERSE_COLUMNS as column (column.id)}
                <td
                  class="border-b border-line px-1 py-0.5 text-right {column.id === 'symbol' ? 'pl-3! text-left!' : ''}"
                >
                  {#if column.limit}
                    {#each ['min', 'max'] as const as end (end)}
                      <input
                        class="figures mt-0.5 block w-full min-w-10 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
                        aria-label="{end === 'min' ? 'Least' : 'Most'} {column.label}"
                        placeholder={end}
                        value={limitText(bench.context.keep, column.limit, end)}
                        onkeydown={(event) => event.stopPropagation()}
                        onchange={(event) => limit(column, end, event.currentTarget)}
                      />
                    {/each}
                  {:else if column.id === 'symbol'}<span class="text-[11px] text-soft">vols and shares in per cent</span
                    >{/if}
                </td>
                {#if column.id === 'symbol'}
                  {#each computed as { formula } (formula)}<td class="border-b border-line"></td>{/each}
                {/if}
              {/each}
            </tr>
          {/if}
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
              <td
                class="sticky left-0 z-10 pl-3 whitespace-nowrap {row.symbol === bench.context.symbol
                  ? 'bg-band'
                  : 'bg-panel'}"
              >
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
              {#each computed as { formula, unit, kind }, i (formula)}
                <td class="cell font-semibold">{screenText(unit, kind, valuesOf.get(row.symbol)?.[i] ?? null)}</td>
              {/each}
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
          {#if sorted.length === 0}
            <tr
              ><td class="p-6 text-center text-soft" colspan={UNIVERSE_COLUMNS.length + computed.length}
                >No underlying is left. Remove a condition, or look for something else.</td
              ></tr
            >
          {/if}
        </tbody>
      </table>
    {/if}
  </div>
  {#if sentence}<div class="p-2.5"><Sentence {sentence} /></div>{/if}
</section>

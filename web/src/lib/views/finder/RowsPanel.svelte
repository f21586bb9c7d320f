<script lang="ts">
  import { BEST_PER, MEASURE_KEYS, type BestPer, type FinderMeasure, type FoundRow } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures } from '$lib/formats';
  import { tabbed } from '$lib/tables';
  import { useParams, useWorkbench } from '$lib/state';
  import { ColumnPicker, NumberField, RowsInView, Toggles } from '$lib/ui';
  import type { FinderDesk } from './desk.svelte';
  import { KIND_WORDS, titleOf, TOLD, written } from './measures';
  import { GROUPINGS, PARAMS, PICTURES, USUAL_COLUMNS } from './params';
  import RowSketch from './RowSketch.svelte';
  import ScatterPart from './ScatterPart.svelte';
  import { grouped, keyOf, nameOf, nextOrder, orderOf, rowsTable, strikesOf } from './rows';
  import { foundSentence } from './words';
  import { weaknessesOf } from './weakest';

  /** What was found, in order. */
  let { desk }: { desk: FinderDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const ROW = 44;
  const MOST_COLUMNS = 20;
  const [SCORE, NAME, SKETCH, COLUMN, WEAKEST] = [48, 166, 80, 48, 84];
  const columns = $derived(params.measured);
  const order = $derived(orderOf(params.rowOrder));
  const rows = $derived(desk.rows);
  const hasBecome = $derived(rows.some(({ became }) => Number.isFinite(became)));

  /** Rows with a head before each group, where they are grouped. */
  type Item = { row: FoundRow; head: null } | { row: null; head: string };
  const items: readonly Item[] = $derived.by(() => {
    const { grouping } = params;
    if (grouping === 'none') return rows.map((row): Item => ({ row, head: null }));
    const groups = grouped(rows, (row) => (grouping === 'underlying' ? row.symbol : KIND_WORDS[row.kind]));
    return groups.flatMap(([group, own]): Item[] => [
      { row: null, head: `${group} · ${figures.counted(own.length, 'row')}` },
      ...own.map((row): Item => ({ row, head: null })),
    ]);
  });
  const width = $derived(SCORE + NAME + SKETCH + columns.length * COLUMN + WEAKEST + (hasBecome ? COLUMN : 0));

  const PER_WORDS: Record<BestPer, string> = {
    expiry: 'kind, expiry',
    underlying: 'underlying',
    family: 'family',
  };
  /** Edges have one scale for negative and positive. */
  const largestEdge = $derived(
    Math.max(
      1e-9,
      ...rows.flatMap(({ measures }) => columns.filter(isEdgeShare).map((key) => Math.abs(measures[key]) || 0)),
    ),
  );
  function isEdgeShare(key: FinderMeasure): boolean {
    return /^edges\..*\.ofRisk$/.test(key);
  }
  /** Edges that stand side by side have one head over them. */
  const edgeRuns = $derived.by(() => {
    const runs: { from: number; count: number }[] = [];
    columns.forEach((key, at) => {
      if (!isEdgeShare(key)) return;
      const last = runs.at(-1);
      if (last && last.from + last.count === at) last.count++;
      else runs.push({ from: at, count: 1 });
    });
    return runs;
  });

  offerTable(
    'finder',
    () => 'What was found',
    () => (rows.length > 0 ? rowsTable(rows, columns) : null),
  );
  const copied = () => tabbed(rowsTable(rows, columns));
</script>

{#snippet head(words: string, key: string | null, size: number, title: string, isLeft = false)}
  {@const isSorted = key !== null && order?.key === key}
  <div
    class="head-cell flex-none border-0! leading-tight whitespace-normal! {isLeft ? 'text-left!' : ''}"
    style="width: {size}px"
    role="columnheader"
    {title}
    aria-sort={isSorted ? (order.isRising ? 'ascending' : 'descending') : 'none'}
  >
    {#if key === null}{words}
    {:else}<button
        class="cursor-pointer {isLeft ? 'text-left' : 'text-right'} {isSorted ? 'font-semibold text-ink' : ''}"
        onclick={() => (params.rowOrder = nextOrder(params.rowOrder, key))}
        >{words}{isSorted ? (order.isRising ? ' ▴' : ' ▾') : ''}</button
      >{/if}
  </div>
{/snippet}

{#snippet heads()}
  {#if edgeRuns.length > 0}
    <div class="relative h-[17px] text-[11px] text-soft" aria-hidden="true">
      {#each edgeRuns as { from, count } (from)}
        <span
          class="absolute bottom-0 border-b border-line text-center leading-[16px] whitespace-nowrap"
          style="left: {SCORE + NAME + SKETCH + from * COLUMN + 8}px; width: {count * COLUMN - 8}px"
          >edge, % of risk</span
        >
      {/each}
    </div>
  {/if}
  <div class="flex items-end border-b border-line" role="row" aria-rowindex={1}>
    <div
      class="head-cell flex-none border-0! pl-3!"
      style="width: {SCORE}px"
      role="columnheader"
      title="100 · Σ|w|·rank ÷ Σ|w|, ranks among all that were made"
      aria-sort={order ? 'none' : 'descending'}
    >
      <button class="cursor-pointer {order ? '' : 'font-semibold text-ink'}" onclick={() => (params.rowOrder = '')}
        >score{order ? '' : ' ▾'}</button
      >
    </div>
    {@render head('structure', null, NAME, 'what it is, and its strikes', true)}
    {@render head(
      'payoff, past moves',
      null,
      SKETCH,
      'profit at the first expiry; a dot is one in twenty past moves',
      true,
    )}
    {#each columns as key (key)}
      {@const isEdge = isEdgeShare(key)}
      {@render head(
        isEdge ? TOLD[key].label.replace(/^edge, (.*), % of risk$/, '$1') : TOLD[key].label,
        key,
        COLUMN,
        titleOf(key),
      )}
    {/each}
    {#if hasBecome}{@render head('became', 'became', COLUMN, 'what it gained by its expiry')}{/if}
    {@render head('weakest', null, WEAKEST, 'what one would look at twice', true)}
  </div>
{/snippet}

{#snippet rowAt(at: number)}
  {@const item = items[at]!}
  {#if item.row === null}
    <div class="flex h-full items-end border-b border-line bg-page px-3 pb-1 text-[12px] font-bold" role="row">
      <span role="cell">{item.head}</span>
    </div>
  {:else}
    {@const row = item.row}
    {@const isLit = desk.row !== null && keyOf(row) === keyOf(desk.row)}
    {@const [first, second] = weaknessesOf(row)}
    <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
    <div
      class="choosable flex h-full w-full items-center border-b border-line {isLit ? 'in-focus bg-band' : 'bg-panel'}"
      role="row"
      aria-rowindex={at + 2}
      aria-selected={isLit}
      data-row={keyOf(row)}
      onclick={() => desk.choose(row)}
    >
      <div class="cell flex-none font-bold" style="width: {SCORE}px" role="cell">{figures.fixed(row.score, 1)}</div>
      <div class="flex-none px-1.5 text-[12px] leading-tight" style="width: {NAME}px" role="rowheader">
        <button
          class="block max-w-full cursor-pointer truncate text-left"
          data-stop
          tabindex="-1"
          onclick={() => desk.choose(row)}><b>{row.symbol}</b> {nameOf(row)}</button
        >
        <span class="figures block truncate text-[11px]! text-soft">{strikesOf(row)}</span>
      </div>
      <div class="flex-none px-1" style="width: {SKETCH}px" role="cell"><RowSketch sketch={row.sketch} /></div>
      {#each columns as key (key)}
        {@const value = row.measures[key]}
        <div class="cell relative flex-none" style="width: {COLUMN}px" role="cell" data-column={key}>
          {#if isEdgeShare(key)}
            <span class={value < 0 ? 'text-loss' : 'text-gain'}>{written(key, value).replace(/\s*%$/, '')}</span>
            {#if Number.isFinite(value)}
              {@const size = (Math.abs(value) / largestEdge) * 50}
              <span class="absolute right-[6px] bottom-[-6px] left-[6px] h-[3px]" aria-hidden="true">
                <span class="absolute -top-[2px] left-1/2 h-[7px] w-px bg-line"></span>
                <span
                  class="absolute h-full {value < 0 ? 'bg-loss' : 'bg-gain'}"
                  style="left: {value < 0 ? 50 - size : 50}%; width: {size}%"
                ></span>
              </span>
            {/if}
          {:else}{written(key, value)}{/if}
        </div>
      {/each}
      {#if hasBecome}
        <div class="cell flex-none {row.became < 0 ? 'text-loss' : 'text-gain'}" style="width: {COLUMN}px" role="cell">
          {figures.signed(row.became, 2)}
        </div>
      {/if}
      <div class="min-w-0 flex-none px-1.5 text-[11px] leading-tight" style="width: {WEAKEST}px" role="cell">
        <span class="block truncate">{first?.short ?? ''}</span>
        <span class="block truncate text-soft">{second?.short ?? ''}</span>
      </div>
    </div>
  {/if}
{/snippet}

<section class="panel min-h-0 flex-1 contain-strict" aria-label="Candidates">
  <header class="flex flex-none flex-wrap items-center gap-x-1.5 gap-y-1 px-3 pt-2 text-[12px]">
    <h2 class="text-[15px] font-bold">Candidates</h2>
    <label class="flex items-center gap-1 text-soft"
      >best <NumberField
        label="The best of each"
        class="w-9"
        min={0}
        max={1000}
        step={1}
        none={0}
        placeholder="all"
        bind:value={params.each}
      />
      per</label
    >
    <select class="choice" aria-label="Of each" bind:value={params.per}>
      {#each BEST_PER as per (per)}<option value={per}>{PER_WORDS[per]}</option>{/each}
    </select>
    <label
      class="flex items-center gap-1 text-soft"
      title="those that are worse in all weighted measures than another are left out"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.isUndominated} /> undominated</label
    >
    <span class="flex-1"></span>
    <select class="choice" aria-label="Grouped by" bind:value={params.grouping}>
      {#each GROUPINGS as grouping (grouping)}<option value={grouping}
          >{grouping === 'none' ? 'no groups' : `by ${grouping}`}</option
        >{/each}
    </select>

    <Toggles label="Picture" options={PICTURES} bind:value={params.foundAs} />
    <ColumnPicker
      shown={columns}
      known={MEASURE_KEYS.map((key) => ({ key, label: TOLD[key].label, title: titleOf(key) }))}
      most={MOST_COLUMNS}
      usual={USUAL_COLUMNS}
      none="No measure says so."
      onchange={(keys) => (params.measured = keys as FinderMeasure[])}
    />
  </header>
  {#if desk.problem}<p class="m-0 px-3 py-1 text-loss" role="alert">{desk.problem}</p>{/if}
  {#if params.foundAs === 'scatter'}<ScatterPart {desk} />
  {:else}
    <RowsInView
      label="Candidates"
      count={items.length}
      height={ROW}
      {heads}
      row={rowAt}
      {copied}
      width="{width}px"
      class="mt-1 min-h-0 flex-1 overflow-auto bg-panel contain-content"
      data-testid="finder-rows"
    >
      {#snippet none()}
        <p class="p-6 text-center text-soft">
          {#if desk.isLooking}Looking …
          {:else if desk.shown && desk.shown.made > 0}Nothing is within all limits: the counts beside them say which
            leave out most.
          {:else if desk.shown}Nothing was made. {desk.shown.skipped[0]?.why ?? ''}
          {:else if params.place === 'focus' && bench.moment.index < 0 && bench.market.current}No chain is held at this
            moment.
          {:else if params.place === 'focus'}Looking …
          {:else}Choose where to look.{/if}
        </p>
      {/snippet}
    </RowsInView>
  {/if}
  {#if desk.shown && rows.length > 0}
    <p class="sentence m-0 mx-3 mb-2" data-testid="finder-sentence">{foundSentence(desk.shown, rows)}</p>
  {/if}
</section>

<style>
  .in-focus {
    box-shadow:
      inset 0 1px var(--focus),
      inset 0 -1px var(--focus);
  }
</style>

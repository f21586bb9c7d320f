<script lang="ts">
  import { expiryClass } from '@umwelt/core';
  import { tick } from 'svelte';
  import { offerTable } from '$lib/exports';
  import { borrowedWords, chainSentence, figures, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { depthColor } from '$lib/charts/depth';
  import { COLUMN_SETS, useTheme, useWorkbench, type Contract } from '$lib/state';
  import {
    CHAIN_COLUMNS,
    CHAIN_SETS,
    chainRows,
    chainTable,
    putColumns,
    STRIKE_WIDTH,
    type ChainColumnId,
    type ChainSide,
  } from '$lib/tables';
  import type { FittedSlice } from '$lib/workers';

  const bench = useWorkbench();
  const theme = useTheme();

  const shown = $derived(bench.shown);
  const lit = $derived(bench.lit);
  // Pointing does not open another expiry; only the focus does.
  const openAt = $derived(bench.focus?.slice ?? -1);
  const slice = $derived(shown?.snapshot.slices[openAt] ?? null);
  const values = $derived(shown?.values[openAt] ?? null);
  const rows = $derived(
    slice && values && shown ? chainRows(slice, values, bench.context.columns, shown.quotes, shown.snapshot.price) : [],
  );
  const callColumns = $derived(CHAIN_SETS[bench.context.columns]);
  const puts = $derived(putColumns(callColumns));
  const width = $derived(callColumns.length + puts.length + 1);
  const least = $derived(
    STRIKE_WIDTH + [...callColumns, ...puts].reduce((sum, id) => sum + CHAIN_COLUMNS[id].width, 0),
  );
  /** The row before which the forward lies. */
  const waterAt = $derived(slice ? rows.findIndex((row) => row.strike <= slice.fit.forward) : -1);
  const sentence = $derived.by(() => {
    if (!slice || !values || !shown) return null;
    const edges: number[] = [];
    const halves: number[] = [];
    for (const [quotes, side, vols] of [
      [slice.call, values.call, values.callVols],
      [slice.put, values.put, values.putVols],
    ] as const) {
      quotes.bid.forEach((bid, i) => {
        if (vols.reason[i] !== 0) return;
        edges.push(0.5 * (bid + quotes.ask[i]!) - side.theory[i]!);
        halves.push(0.5 * (quotes.ask[i]! - bid));
      });
    }
    return chainSentence(slice.expiry, edges, halves, shown.basis);
  });

  offerTable(
    'chain-of-expiry',
    () => `Chain of ${bench.context.symbol}, ${slice ? shortDay(slice.expiry) : 'one expiry'}`,
    () => (shown && slice ? chainTable(shown.snapshot, shown.values, shown.basis, [openAt]) : null),
  );
  offerTable(
    'chain',
    () => `Chain of ${bench.context.symbol}, all expiries`,
    () => (shown ? chainTable(shown.snapshot, shown.values, shown.basis, [...shown.snapshot.slices.keys()]) : null),
  );

  let scroller = $state<HTMLDivElement>();

  // The focus stays in sight while the keys move it, and is in the middle when another expiry opens. Only then:
  // asking the browser where a row lies makes it lay the whole table out.
  const place = $derived(bench.focus ? `${shown?.snapshot.symbol} ${bench.focus.expiry} ${bench.focus.strike}` : '');
  let lastPlace = '';
  $effect(() => {
    if (!place || !scroller) return;
    const expiryOf = (text: string) => text.slice(0, text.lastIndexOf(' '));
    const block = expiryOf(place) === expiryOf(lastPlace) ? 'nearest' : 'center';
    lastPlace = place;
    void tick().then(() => scroller?.querySelector('[data-focus="true"]')?.scrollIntoView({ block }));
  });

  function headerWords({ fit, expiry }: FittedSlice): string {
    return `${figures.days(fit.days)} d · ${figures.counted(fit.sessions, 'session')} · ${expiryClass(bench.calendar, expiry)}`;
  }

  /** The contract of the cell that an event comes from. */
  function contractOf(event: Event): Contract | null {
    const cell = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-cell]') : null;
    if (!cell || !slice) return null;
    const side = cell.dataset.cell?.startsWith('call') ? 'call' : 'put';
    return { expiry: slice.expiry, strike: Number(cell.dataset.strike), side };
  }

  function point(event: PointerEvent): void {
    bench.pointed = contractOf(event);
  }

  function choose(event: MouseEvent): void {
    const contract = contractOf(event);
    if (contract) bench.setFocus(contract);
  }

  const marks = { rich: '▲', cheap: '▼', inside: '', none: '' };
</script>

{#snippet expiryHead(other: FittedSlice, i: number)}
  {@const isOpen = i === openAt}
  <button
    class="flex h-[25px] flex-none cursor-pointer items-center gap-3 overflow-hidden border-t border-line px-2.5 text-left whitespace-nowrap hover:bg-band {isOpen
      ? 'bg-band'
      : 'bg-page'}"
    aria-expanded={isOpen}
    onclick={() => bench.setFocus({ expiry: other.expiry })}
  >
    <span class="size-2.5 flex-none rounded-[2px]" style="background: {depthColor(other.fit.days, theme.tokens)}"
    ></span>
    <b class="w-20">{isOpen ? '▾' : '▸'} {shortDay(other.expiry, shown?.snapshot.asof.slice(0, 4))}</b>
    <span class="w-44 text-soft">{headerWords(other)}</span>
    <span class="w-28">forward <b class="figures">{figures.fixed(other.fit.forward, bench.decimals)}</b></span>
    <span class="w-16">ATM <b class="figures">{figures.vol(other.fit.atmVol)}</b></span>
    <span class="w-32" title="straddle; one deviation {figures.plusMinus(other.fit.deviationMove, bench.decimals)}">
      move <b class="figures">{figures.plusMinus(other.fit.straddleMove, bench.decimals)}</b>
    </span>
    {#if other.fit.borrowed}
      <span class="text-implied" title={borrowedWords(other.fit.borrowed)}>⋯ {other.fit.borrowed.source}</span>
    {/if}
    <span class="hidden text-soft xl:inline"
      >{figures.count(other.fit.usable)} of {figures.counted(other.fit.contracts, 'contract')} used</span
    >
  </button>
{/snippet}

{#snippet sideCells(ids: readonly ChainColumnId[], side: ChainSide, strike: number, name: 'call' | 'put')}
  {#each ids as id, c (id)}
    {#if id === 'openInterest'}
      <td class="cell relative {name}" data-cell="{name} {id}" data-strike={strike}>
        <span class="absolute inset-y-[3px] right-0 bg-gain/20" style="width: {100 * side.openShare}%"></span>
        <span class="relative">{side.texts[c]}</span>
      </td>
    {:else if id === 'theory'}
      <td class="cell relative {name}" data-cell="{name} {id}" data-strike={strike}>
        <span class="absolute left-0 text-[9px] {side.verdict === 'rich' ? 'text-loss' : 'text-gain'}"
          >{marks[side.verdict]}</span
        >{side.texts[c]}
      </td>
    {:else if id === 'vol'}
      <td class="cell {name}" data-cell="{name} {id}" data-strike={strike} title={side.reason || undefined}
        >{side.texts[c]}</td
      >
    {:else}
      <td class="cell {name}" data-cell="{name} {id}" data-strike={strike}>{side.texts[c]}</td>
    {/if}
  {/each}
{/snippet}

<section class="panel flex-1" aria-label="Chain">
  <header class="flex items-center gap-2.5 px-3 py-2">
    <h2 class="text-[15px] font-bold">Chain</h2>
    <span class="text-soft">
      theory on the <b class="text-ink">{shown?.basis ?? bench.context.basis}</b> basis, per unit
    </span>
    <span class="flex-1"></span>
    <div class="toggle-group" role="group" aria-label="Columns">
      {#each COLUMN_SETS as set (set)}
        <button aria-pressed={bench.context.columns === set} onclick={() => (bench.context.columns = set)}>{set}</button
        >
      {/each}
    </div>
  </header>
  {#if shown && slice && values}
    <!-- With very many expiries their heads scroll, and the open one keeps room for its rows. -->
    <div class="flex min-h-0 flex-1 flex-col overflow-y-auto">
      {#each shown.snapshot.slices.slice(0, openAt + 1) as other, i (other.expiry + other.settlement)}{@render expiryHead(
          other,
          i,
        )}{/each}
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <div
        class="min-h-[240px] flex-1 overflow-auto contain-content"
        bind:this={scroller}
        onpointerleave={() => (bench.pointed = null)}
      >
        <table
          class="dense w-full table-fixed border-collapse"
          style="min-width: {least}px"
          data-testid="chain"
          data-basis={shown.basis}
          data-asof={shown.snapshot.asof}
        >
          <colgroup>
            {#each callColumns as id (id)}<col style="width: {CHAIN_COLUMNS[id].width}px" />{/each}
            <col style="width: {STRIKE_WIDTH}px" />
            {#each puts as id (id)}<col style="width: {CHAIN_COLUMNS[id].width}px" />{/each}
          </colgroup>
          <thead>
            <tr>
              {#each callColumns as id, i (id)}
                <th class="head-cell" title={CHAIN_COLUMNS[id].title}
                  >{CHAIN_COLUMNS[id].label}{i === callColumns.length - 1 ? ' △' : ''}</th
                >
              {/each}
              <th class="head-cell text-center!">strike</th>
              {#each puts as id, i (id)}
                <th class="head-cell" title={CHAIN_COLUMNS[id].title}>{i === 0 ? '▽ ' : ''}{CHAIN_COLUMNS[id].label}</th
                >
              {/each}
            </tr>
          </thead>
          <!-- The keys of the whole application do here what the pointer does: arrows move, . flips the side. -->
          <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
          <tbody onpointerover={point} onclick={choose}>
            {#each rows as row, i (row.strike)}
              {@const isLit = lit?.strike === row.strike && lit.slice === openAt}
              {#if i === waterAt}
                <tr class="bg-panel" data-testid="waterline">
                  <td colspan={width} class="border-y-[1.5px] border-implied p-0 text-center">
                    <span class="figures text-[11px]! font-semibold text-implied"
                      >≈ forward {figures.fixed(slice.fit.forward, bench.decimals)} ≈</span
                    >
                  </td>
                </tr>
              {/if}
              <tr
                class="h-[22px] cursor-pointer border-b border-line"
                class:lit={isLit}
                class:call-under={row.strike < slice.fit.forward}
                class:put-under={row.strike > slice.fit.forward}
                class:call-refused={row.call.reason !== ''}
                class:put-refused={row.put.reason !== ''}
                data-focus={bench.focus?.strike === row.strike}
              >
                {@render sideCells(callColumns, row.call, row.strike, 'call')}
                <th class="cell text-center! font-semibold {isLit ? 'text-focus' : ''}">
                  {isLit && lit?.side === 'call' ? '◂ ' : ''}{figures.strike(row.strike)}{isLit && lit?.side === 'put'
                    ? ' ▸'
                    : ''}
                </th>
                {@render sideCells(puts, row.put, row.strike, 'put')}
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
      {#each shown.snapshot.slices.slice(openAt + 1) as other, i (other.expiry + other.settlement)}{@render expiryHead(
          other,
          i + openAt + 1,
        )}{/each}
    </div>
    {#if sentence}<div class="border-t border-line p-2"><Sentence {sentence} /></div>{/if}
  {:else}
    <p class="m-auto text-center text-soft">
      {bench.problem ?? (bench.current && bench.index < 0 ? 'No chain is held at this moment.' : 'Loading …')}
    </p>
  {/if}
</section>

<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { clockTime, figures, shortDay } from '$lib/formats';
  import { TAPE_LEGS, TAPE_SIDES, useWorkbench } from '$lib/state';
  import { rowsInView } from '$lib/tables';
  import { distanceOf, loadTape, printsAgainst, tapeBalance, tapeTable, type Print, type Tape } from './tape';

  const bench = useWorkbench();
  const ROW = 20;

  let tape = $state.raw<Tape | null>(null);
  let problem = $state<string | null>(null);

  $effect(() => {
    const { symbol, tapeSize, tapeLegs } = bench.context;
    const to = bench.summary?.asof ?? null;
    void bench.edition;
    if (!symbol || !to) return;
    let isWanted = true;
    loadTape(symbol, to, tapeSize, tapeLegs).then(
      (found) => {
        if (!isWanted) return;
        tape = found;
        problem = null;
      },
      (error: unknown) => {
        if (isWanted) problem = error instanceof Error ? error.message : String(error);
      },
    );
    return () => (isWanted = false);
  });

  const current = $derived(tape?.symbol === bench.context.symbol ? tape : null);
  const prints = $derived(printsAgainst(current?.prints ?? [], bench.context.tapeSides));
  const balance = $derived(tapeBalance(prints));
  const decimals = $derived(bench.decimals);
  const year = $derived(bench.shown?.snapshot.asof.slice(0, 4));

  let scroller = $state<HTMLElement>();
  let scrolled = $state(0);
  let height = $state(0);
  const slots = $derived(rowsInView(scrolled, height, ROW, prints.length));
  const TEMPLATE = '62px 56px 136px 64px 64px 72px 72px 1fr';

  offerTable(
    'tape',
    () => `Tape of ${bench.context.symbol}`,
    () => (current ? tapeTable(prints) : null),
  );

  function choose({ expiry, strike, side }: Print): void {
    bench.setFocus({ expiry, strike, side });
  }
  /** Where in the spread of its time it was traded. */
  function placeWords({ price, bid, ask }: Print): string {
    if (bid === null || ask === null) return '';
    if (price >= ask) return price > ask ? 'over the ask' : 'at the ask';
    if (price <= bid) return price < bid ? 'under the bid' : 'at the bid';
    return 'between';
  }
</script>

<div class="flex items-center gap-2 px-3 pb-1 text-[11.5px]">
  <div class="toggle-group" role="group" aria-label="Legs">
    {#each TAPE_LEGS as legs (legs)}
      <button
        aria-pressed={bench.context.tapeLegs === legs}
        title={{ all: 'every print', single: 'trades of one leg', several: 'legs of one trade' }[legs]}
        onclick={() => (bench.context.tapeLegs = legs)}>{legs === 'several' ? 'multi-leg' : legs}</button
      >
    {/each}
  </div>
  <div class="toggle-group" role="group" aria-label="Against theory">
    {#each TAPE_SIDES as sides (sides)}
      <button aria-pressed={bench.context.tapeSides === sides} onclick={() => (bench.context.tapeSides = sides)}
        >{sides === 'all' ? 'all' : `${sides} theory`}</button
      >
    {/each}
  </div>
  <label class="flex items-center gap-1 text-soft"
    >size from
    <input
      class="figures w-14 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
      type="number"
      min="0"
      step="1"
      aria-label="Smallest size"
      value={bench.context.tapeSize || ''}
      onkeydown={(event) => event.stopPropagation()}
      onchange={(event) => (bench.context.tapeSize = Math.max(0, Math.round(event.currentTarget.valueAsNumber || 0)))}
    /></label
  >
  <span class="min-w-0 flex-1 truncate text-right text-soft" data-testid="tape-count">
    {#if problem}<span class="text-loss" role="alert">{problem}</span>
    {:else if !current}Loading …
    {:else if current.count === 0}No print is held of this session.
    {:else}
      {figures.count(prints.length)}{prints.length < current.count ? ` of ${figures.count(current.count)}` : ''} prints ·
      above {figures.count(balance.above)} below {figures.count(balance.below)} contracts · on average {figures.signed(
        balance.mean,
        decimals,
      )}
    {/if}
  </span>
</div>
<div
  class="min-h-0 flex-1 overflow-auto contain-strict"
  bind:this={scroller}
  bind:clientHeight={height}
  onscroll={() => (scrolled = scroller?.scrollTop ?? 0)}
  onpointerleave={() => (bench.pointed = null)}
  role="table"
  aria-label="Tape"
  data-testid="tape"
>
  <div
    class="sticky top-0 z-10 grid border-b border-line bg-panel"
    style="grid-template-columns: {TEMPLATE}"
    role="row"
  >
    {#each ['time', 'size', 'contract', 'price', 'theory', 'distance', 'place', ''] as head, i (i)}
      <div
        class="head-cell static! border-0! {i === 2 || i === 6 ? 'text-left!' : ''}"
        role="columnheader"
        title={head === 'theory' ? 'on the curve of the last moment held at its time' : undefined}
      >
        {head}
      </div>
    {/each}
  </div>
  <div class="dense relative" style="height: {ROW * prints.length}px" role="rowgroup">
    {#each slots as index, slot (slot)}
      {@const print = prints[index]}
      {#if print}
        {@const distance = distanceOf(print)}
        {@const isFocus =
          print.expiry === bench.focus?.expiry &&
          print.strike === bench.focus.strike &&
          print.side === bench.focus.side}
        <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
        <div
          class="absolute inset-x-0 top-0 grid cursor-pointer items-center border-b border-line hover:bg-band {isFocus
            ? 'bg-band'
            : ''}"
          style="grid-template-columns: {TEMPLATE}; height: {ROW}px; transform: translateY({ROW * index}px)"
          role="row"
          onclick={() => choose(print)}
          onpointerenter={() => (bench.pointed = { expiry: print.expiry, strike: print.strike, side: print.side })}
        >
          <div class="cell" role="cell">{clockTime(print.time, bench.calendar.zone)}</div>
          <div class="cell font-semibold" role="cell">{figures.count(print.size)}</div>
          <div class="cell text-left!" role="cell">
            <button class="cursor-pointer" onclick={() => choose(print)}
              >{shortDay(print.expiry, year)} {figures.strike(print.strike)} {print.side}</button
            >
          </div>
          <div class="cell" role="cell">{figures.fixed(print.price, decimals)}</div>
          <div class="cell text-soft" role="cell">{figures.fixed(print.theory, decimals)}</div>
          <div class="cell {distance > 0 ? 'text-loss' : distance < 0 ? 'text-gain' : ''}" role="cell">
            {distance > 0 ? '▲' : distance < 0 ? '▼' : ''}
            {figures.signed(distance, decimals)}
          </div>
          <div class="cell text-left! text-soft" role="cell">{placeWords(print)}</div>
          <div class="cell text-left! text-soft" role="cell">{print.group ? `⌐ leg of ${print.group}` : ''}</div>
        </div>
      {/if}
    {/each}
  </div>
</div>

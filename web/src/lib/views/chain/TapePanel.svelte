<script lang="ts">
  import { isSameContract, type OptionId } from '@umwelt/core';
  import X from '@lucide/svelte/icons/x';
  import { offerTable } from '$lib/exports';
  import { clockTime, figures, shortExpiry } from '$lib/formats';
  import { Loaded, useWorkbench, useParams } from '$lib/state';
  import { tabbed } from '$lib/tables';
  import { distanceOf, loadTape, placeWords, TAPE_LEGS, TAPE_SIDES, type Print, type Tape } from '$lib/data/tape';
  import { tapeTable } from './tape';
  import { printWork } from './work';
  import { PARAMS } from './params';
  import { RowsInView, Toggles, Worked } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const ROW = 20;

  const tape = new Loaded<Tape>(() => {
    const { symbol } = bench.context;
    const { tapeSize, tapeLegs, tapeSides } = params;
    const to = bench.moment.summary?.asof;
    void bench.market.edition;
    return symbol && to ? loadTape(symbol, to, { size: tapeSize, legs: tapeLegs, against: tapeSides }) : undefined;
  });

  const current = $derived(tape.value?.symbol === bench.context.symbol ? tape.value : null);
  const prints = $derived(current?.prints ?? []);
  const decimals = $derived(bench.market.decimals);
  const year = $derived(bench.snapshot.shown?.snapshot.asof.slice(0, 4));

  const TEMPLATE = '52px 28px minmax(0, 1fr) 48px 54px';

  offerTable(
    'tape',
    () => `Tape of ${bench.context.symbol}`,
    () => (current ? tapeTable(prints) : null),
  );

  const contractOf = ({ expiry, settlement, strike, side }: Print): OptionId => ({
    ...{ symbol: bench.context.symbol!, expiry, settlement: settlement ?? 'pm', strike, side },
  });
  /** What is known of a print that has no column of its own. */
  const about = (print: Print) =>
    [
      `theory ${figures.fixed(print.theory, decimals)} on the curve of the last moment held at its time`,
      placeWords(print),
      ...(print.group ? [`leg of ${print.group}`] : []),
    ].join(', ');
</script>

<section class="panel min-h-0 flex-1" aria-label="Tape">
  <header class="flex items-center gap-2 px-3 pt-1.5">
    <h2 class="text-[13px] font-bold">Tape</h2>
    <span class="flex-1"></span>
    <label class="flex items-center gap-1 text-[11.5px] text-soft"
      >size from
      <input
        class="figures w-12 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
        type="number"
        min="0"
        step="1"
        aria-label="Smallest size"
        value={params.tapeSize || ''}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => (params.tapeSize = Math.max(0, Math.round(event.currentTarget.valueAsNumber || 0)))}
      /></label
    >
    <button
      class="cursor-pointer text-soft hover:text-ink"
      aria-label="Close the tape"
      onclick={() => (params.hasTape = false)}><X size={14} /></button
    >
  </header>
  <div class="flex items-center justify-between px-3 py-1 text-[11px]">
    <Toggles
      label="Legs"
      options={TAPE_LEGS}
      words={(legs) => (legs === 'several' ? 'multi-leg' : legs)}
      titles={(legs) => ({ all: 'every print', single: 'trades of one leg', several: 'legs of one trade' })[legs]}
      bind:value={params.tapeLegs}
    />
    <Toggles
      label="Against theory"
      options={TAPE_SIDES}
      titles={(sides) => (sides === 'all' ? 'wherever it was traded' : `traded ${sides} theory`)}
      bind:value={params.tapeSides}
    />
  </div>
  <p class="m-0 px-3 pb-1 text-[11px] text-soft" data-testid="tape-count">
    {#if tape.problem}<span class="text-loss" role="alert">{tape.problem}</span>
    {:else if !current}Loading …
    {:else if current.count === 0}No such print is held of this session.
    {:else}
      {prints.length < current.count ? `the last ${figures.count(prints.length)} of ` : ''}{figures.count(
        current.count,
      )} prints; {figures.count(current.balance.above)} contracts above theory, {figures.count(current.balance.below)} below,
      on average {figures.signed(current.balance.mean ?? NaN, decimals)}
    {/if}
  </p>
  <RowsInView
    label="Tape"
    count={prints.length}
    height={ROW}
    class="min-h-0 flex-1 overflow-x-hidden overflow-y-auto contain-strict"
    bodyClass="dense"
    copied={() => (current ? tabbed(tapeTable(prints)) : '')}
    onpointerleave={() => (bench.focus.pointed = null)}
    data-testid="tape"
  >
    {#snippet heads()}
      <div class="grid border-b border-line" style="grid-template-columns: {TEMPLATE}" role="row">
        {#each ['time', 'size', 'contract', 'price', '− theory'] as head, i (head)}
          <div
            class="head-cell static! border-0! {i === 2 ? 'text-left!' : ''}"
            role="columnheader"
            title={i === 4 ? 'distance from theory at its time' : undefined}
          >
            {head}
          </div>
        {/each}
      </div>
    {/snippet}
    {#snippet row(at: number)}
      {@const print = prints[at]!}
      {@const distance = distanceOf(print)}
      {@const isFocus = bench.focus.current !== null && isSameContract(contractOf(print), bench.focus.current)}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
      <div
        class="grid h-full cursor-pointer items-center border-b border-line hover:bg-band {isFocus ? 'bg-band' : ''}"
        style="grid-template-columns: {TEMPLATE}"
        role="row"
        aria-rowindex={at + 2}
        title={about(print)}
        onclick={() => bench.focus.set(contractOf(print))}
        onpointerenter={() => (bench.focus.pointed = contractOf(print))}
      >
        <div class="cell text-[10.5px]!" role="cell">{clockTime(print.time, bench.market.calendar.zone)}</div>
        <div class="cell font-semibold" role="cell">{figures.count(print.size)}</div>
        <div class="cell truncate text-left!" role="cell">
          <button class="cursor-pointer" data-stop tabindex="-1" onclick={() => bench.focus.set(contractOf(print))}
            >{print.group ? '⌐' : ''}<span aria-label={print.side}>{print.side === 'call' ? '△' : '▽'}</span>
            {shortExpiry(print, year)}
            {figures.strike(print.strike)}</button
          >
        </div>
        <div class="cell" role="cell">{figures.fixed(print.price, decimals)}</div>
        <div class="cell {distance > 0 ? 'text-loss' : distance < 0 ? 'text-gain' : ''}" role="cell">
          <Worked open={() => (bench.dialogs.work = printWork(print, bench.market.calendar.zone))}
            >{distance > 0 ? '▲' : distance < 0 ? '▼' : ''}{figures.signed(distance, decimals)}</Worked
          >
        </div>
      </div>
    {/snippet}
  </RowsInView>
</section>

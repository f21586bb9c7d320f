<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import ArrowRight from '@lucide/svelte/icons/arrow-right';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import CalendarArrowUp from '@lucide/svelte/icons/calendar-arrow-up';
  import Minus from '@lucide/svelte/icons/minus';
  import NotebookPen from '@lucide/svelte/icons/notebook-pen';
  import Plus from '@lucide/svelte/icons/plus';
  import Reverse from '@lucide/svelte/icons/flip-vertical-2';
  import Redo from '@lucide/svelte/icons/redo-2';
  import Split from '@lucide/svelte/icons/split';
  import Undo from '@lucide/svelte/icons/undo-2';
  import X from '@lucide/svelte/icons/x';
  import { intoBook } from '$lib/book';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useParams, useWorkbench } from '$lib/state';
  import { isSame, legWords } from '$lib/structure';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, NumberField, Toggles, type Head } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';
  import { FILLS, MOST_FEE, PARAMS } from './params';
  import Beside from './Beside.svelte';
  import Shelf from './Shelf.svelte';
  import { assignmentWords, structureSentence } from './words';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const answer = $derived(desk.told);
  /** A leg with what is known of it: the answer may still be that of other legs. */
  const rows = $derived(
    desk.hand.legs.map((leg) => {
      const at = answer?.request.legs.findIndex((one) => isSame(leg, one)) ?? -1;
      const early = answer?.evaluation.assignments.find((one) => one.leg === at);
      return { leg, values: answer?.evaluation.legs[at], early: early && assignmentWords(early, decimals) };
    }),
  );
  const sentence = $derived(
    answer ? structureSentence(answer.evaluation, { times: desk.times, digits: desk.digits, decimals }) : null,
  );
  const year = $derived(bench.snapshot.shown?.snapshot.asof.slice(0, 4));

  const HEADS: readonly Head[] = [
    { label: 'qty', title: 'contracts: bought is plus' },
    { label: 'leg', align: 'left' },
    { label: 'price', title: 'at the fill' },
    { label: 'theory', title: 'on the basis, in the scenario' },
    { label: 'vol', title: 'on the basis, in the scenario' },
    { label: 'delta', title: 'of one unit' },
    { label: 'change', isHidden: true },
  ];

  /** What is done to all legs: what they become, or null where that cannot be. */
  const whole = $derived([
    {
      icon: ArrowLeft,
      label: 'One strike down',
      title: 'all legs a listed strike lower',
      to: desk.hand.alongStrikes(-1),
    },
    {
      icon: ArrowRight,
      label: 'One strike up',
      title: 'all legs a listed strike higher',
      to: desk.hand.alongStrikes(1),
    },
    {
      icon: ArrowDown,
      label: 'One expiry back',
      title: 'all legs in the expiry before theirs',
      to: desk.hand.rolled(-1),
    },
    { icon: ArrowUp, label: 'One expiry on', title: 'all legs in the expiry after theirs', to: desk.hand.rolled(1) },
    { words: '× 2', label: '× 2, twice as many', title: 'every quantity doubled', to: desk.hand.scaled(2) },
    { words: '÷ 2', label: '÷ 2, half as many', title: 'every quantity halved', to: desk.hand.scaled(0.5) },
  ]);

  function onkeydown(event: KeyboardEvent): void {
    const isTyped = event.target instanceof Element && event.target.matches('input, textarea');
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z' || isTyped) return;
    event.preventDefault();
    if (event.shiftKey) desk.hand.redo();
    else desk.hand.undo();
  }

  const root = $derived(bench.market.underlying?.root ?? '');
  const held = $derived(answer?.request.held === 0 ? undefined : answer?.evaluation.legs.at(-1));
  const isIndex = $derived(bench.market.underlying?.kind === 'index');

  offerTable(
    'legs',
    () => `Legs of the structure on ${bench.context.symbol}`,
    () =>
      answer && {
        columns: [
          { name: 'symbol', type: 'text' },
          ...numberColumns(['quantity']),
          { name: 'expiry', type: 'text' },
          { name: 'settlement', type: 'text' },
          ...numberColumns(['strike']),
          { name: 'side', type: 'text' },
          ...numberColumns(['entry', 'theory', 'vol', 'delta', 'gamma', 'theta', 'vega']),
        ],
        rows: answer.request.legs.map(({ symbol, quantity, expiry, settlement, strike, side }, i) => {
          const { entry, value, vol, delta, gamma, theta, vega } = answer.evaluation.legs[i]!;
          return [symbol, quantity, expiry, settlement, strike, side, entry, value, vol, delta, gamma, theta, vega];
        }),
      },
  );
</script>

<svelte:window {onkeydown} />

<section class="panel min-h-0 flex-1" aria-label="Legs">
  <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Legs</h2>
    <label
      class="ml-auto flex items-baseline gap-1 text-[11.5px] text-soft"
      title="of each contract, in money; part of every cost"
      >fee
      <NumberField label="Fee of a contract" bind:value={params.fee} min={0} max={MOST_FEE} class="w-10" /></label
    >
    <Shelf />
    <Beside {desk} />
    {#if typeof params.fill === 'object'}
      <span class="text-[11.5px] text-soft" title="of the half spread, over the middle"
        >fill {figures.signed(100 * params.fill.slippage, 0)} %</span
      >
    {/if}
    <Toggles
      label="Fill"
      options={FILLS}
      isOn={(one) => one === params.fill}
      onchoose={(one) => (params.fill = one)}
      titles={(fill) =>
        ({
          worst: 'bought at the ask, sold at the bid',
          mid: 'at the middle',
          best: 'bought at the bid, sold at the ask',
        })[fill]}
    />
  </header>
  <div class="flex flex-none flex-wrap items-center gap-1 px-3 pt-1" role="group" aria-label="All legs">
    <button
      class="btn btn-square btn-xs"
      aria-label="Undo"
      title="undo (ctrl z)"
      disabled={!desk.hand.steps.canUndo}
      onclick={() => desk.hand.undo()}><Undo size={13} /></button
    >
    <button
      class="btn btn-square btn-xs"
      aria-label="Redo"
      title="do it again (ctrl shift z)"
      disabled={!desk.hand.steps.canRedo}
      onclick={() => desk.hand.redo()}><Redo size={13} /></button
    >
    <span class="h-4 w-px bg-line"></span>
    {#each whole as { icon: Icon, words, label, title, to } (label)}
      <button
        class="btn btn-xs {Icon ? 'btn-square' : 'px-1'}"
        aria-label={label}
        {title}
        disabled={to === null}
        onclick={() => desk.hand.take(to)}
        >{#if Icon}<Icon size={13} />{:else}{words}{/if}</button
      >
    {/each}
    <span class="h-4 w-px bg-line"></span>
    <button
      class="btn px-1 btn-xs"
      title={isIndex
        ? 'an index cannot be traded: its fund and futures can'
        : `holds as much of the underlying as makes delta nothing: ${figures.signed(desk.neutral, 0)} of it`}
      disabled={isIndex || !Number.isFinite(desk.neutral) || desk.neutral === bench.context.held}
      onclick={() => (bench.context.held = desk.neutral)}>delta 0</button
    >
    <button
      class="btn btn-square btn-xs"
      aria-label="Into the book"
      title="as a position of a book, at the quotes of the moment (j)"
      disabled={desk.hand.legs.length === 0}
      onclick={() => void intoBook(bench)}><NotebookPen size={13} /></button
    >
    <button
      class="btn btn-square btn-xs"
      aria-label="Reverse"
      title="reverse: what is bought is sold, what is sold is bought"
      onclick={() => desk.hand.reverse()}><Reverse size={13} /></button
    >
    <button class="btn btn-square btn-xs" aria-label="Clear" title="let all of it go" onclick={() => desk.hand.clear()}
      ><X size={13} /></button
    >
  </div>
  <DataGrid
    label="Legs"
    heads={HEADS}
    {rows}
    keyOf={({ leg }) => `${leg.symbol} ${legWords(leg, '')}`}
    isDense
    isEdged
    testid="structure-legs"
  >
    {#snippet row({ leg, values, early }, i)}
      <td class="cell figures {leg.quantity > 0 ? 'text-gain' : 'text-loss'}"
        ><b>{figures.signed(leg.quantity, 0)}</b></td
      >
      <td class="cell text-left!" title={early}
        >{shortExpiry(leg, year)}
        {figures.strike(leg.strike)}
        {leg.side}{#if desk.hand.siblings.length > 0}<select
            class="ml-1 appearance-none border-b border-dotted border-line bg-transparent text-[11px] text-soft"
            aria-label="Delivery of {legWords(leg)}"
            title="{leg.symbol}: the delivery that it is of; they move by equal returns"
            value={leg.symbol}
            onkeydown={(event) => event.stopPropagation()}
            onchange={(event) => void desk.hand.deliver(i, event.currentTarget.value)}
          >
            {#each [bench.context.symbol ?? '', ...desk.hand.siblings] as symbol (symbol)}<option value={symbol}
                >{symbol.slice(root.length)}</option
              >{/each}
          </select>{/if}{#if early}<span
            class="ml-1 rounded-[3px] bg-loss px-1 text-[10.5px] text-panel"
            data-testid="may-be-assigned">early?</span
          >{/if}</td
      >
      <td class="cell" title={values?.enteredBy === 'theory' ? 'it has no quote: its theory' : undefined}
        >{values ? figures.fixed(values.entry, decimals) : '–'}{values?.enteredBy === 'theory' ? '*' : ''}</td
      >
      <td class="cell">{figures.fixed(values?.value, decimals)}</td>
      <td class="cell">{figures.vol(values?.vol)}</td>
      <td class="cell">{figures.signed(values?.delta, 3)}</td>
      <td class="cell whitespace-nowrap">
        <button
          class="cursor-pointer px-0.5 text-soft hover:text-ink"
          aria-label="One less of {legWords(leg)}"
          onclick={() => desk.hand.change(i, -1)}><Minus size={12} /></button
        ><button
          class="cursor-pointer px-0.5 text-soft hover:text-ink"
          aria-label="One more of {legWords(leg)}"
          onclick={() => desk.hand.change(i, 1)}><Plus size={12} /></button
        ><button
          class="cursor-pointer px-0.5 text-soft hover:text-ink disabled:opacity-30"
          aria-label="Roll {legWords(leg)}"
          title="to the next expiry, on the nearest strike"
          disabled={desk.hand.rolled(1, i) === null}
          onclick={() => desk.hand.take(desk.hand.rolled(1, i))}><CalendarArrowUp size={12} /></button
        ><button
          class="cursor-pointer px-0.5 text-soft hover:text-ink disabled:opacity-30"
          aria-label="Split {legWords(leg)}"
          title="half of it to the next strike away from the money"
          disabled={desk.hand.split(i) === null}
          onclick={() => desk.hand.take(desk.hand.split(i))}><Split size={12} /></button
        >
      </td>
    {/snippet}
  </DataGrid>
  {#if bench.context.held !== 0}
    <p class="m-0 flex flex-none items-baseline gap-2 px-3 py-1 text-[12px]" data-testid="structure-held">
      <b class="figures {bench.context.held > 0 ? 'text-gain' : 'text-loss'}">{figures.signed(bench.context.held, 0)}</b
      >
      {bench.context.symbol} itself
      {#if held}<span class="text-soft">at <span class="figures">{figures.fixed(held.entry, decimals)}</span></span
        >{/if}
      <button
        class="ml-auto cursor-pointer text-soft hover:text-ink"
        aria-label="Without the underlying"
        onclick={() => (bench.context.held = 0)}><X size={12} /></button
      >
    </p>
  {/if}
  <div class="flex flex-none flex-wrap items-baseline gap-x-2 px-3 py-1 text-[12px]" data-testid="structure-tied">
    <label
      class="flex items-baseline gap-1 text-soft"
      title="a price of the underlying at which it is exchanged with the underlying that makes its delta nothing"
      >tied to
      <NumberField
        label="Price that it is tied to"
        bind:value={params.tied}
        min={0}
        none={0}
        placeholder={figures.fixed(answer?.spot, decimals)}
        class="w-20"
      /></label
    >
    {#if answer?.tied}
      {@const { tied } = answer}
      <span
        >with <b class="figures">{figures.signed(tied.units * desk.multiplier, 1)}</b> of {isIndex
          ? 'its future'
          : bench.context.symbol}: <b class="figures">{figures.fixed(tied.value * desk.times, desk.digits)}</b> there,
        <b class="figures">{figures.fixed(tied.now * desk.times, desk.digits)}</b> now</span
      >
    {/if}
  </div>
  {#if !desk.hand.isOne}
    <p class="m-0 flex-none px-3 pb-1 text-[11.5px] text-soft">
      deliveries move by equal returns; all of it goes by the price of {bench.context.symbol}
    </p>
  {/if}
  {#if sentence}<div class="flex-none p-2 pt-0"><Sentence {sentence} /></div>{/if}
</section>

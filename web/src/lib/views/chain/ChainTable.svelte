<script lang="ts">
  import { expiryName, namedExpiry, placeLeg, type OptionId, type Side } from '@umwelt/core';
  import { tick, untrack } from 'svelte';
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { tabbed, chainTable } from '$lib/tables';
  import { RowsInView } from '$lib/ui';
  import { chainSide, type ChainSide } from '$lib/working/cells';
  import { CHAIN_COLUMNS, putColumns, STRIKE_WIDTH, type ChainColumnId } from '$lib/columns';
  import type { ChainDesk } from './desk.svelte';
  import ExpiryHead from './ExpiryHead.svelte';
  import { placeInMove, type ChainItem } from './rows';
  import { PARAMS } from './params';

  let { desk }: { desk: ChainDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const ROW = 22;

  const shown = $derived(bench.snapshot.shown!);
  const lit = $derived(bench.focus.lit);
  const callColumns = $derived(params.columns);
  const puts = $derived(putColumns(callColumns));
  /** Of each column of the puts, where its text lies among those of the calls. */
  const putAt = $derived(puts.map((id) => callColumns.indexOf(id)));
  const width = (id: ChainColumnId) => CHAIN_COLUMNS[id].width;
  /** Where theory lies is seen there, and need not be marked beside it. */
  const hasPlace = $derived(callColumns.includes('place'));
  const template = $derived(
    [...callColumns.map(width), STRIKE_WIDTH, ...puts.map(width)].map((px) => `minmax(${px}px, ${px}fr)`).join(' '),
  );
  const least = $derived(STRIKE_WIDTH + [...callColumns, ...puts].reduce((sum, id) => sum + width(id), 0));

  let scroller = $state<HTMLDivElement>();
  let scrolled = $state(0);
  let height = $state(0);
  /** The expiry whose head has gone out at the top while its strikes are in view. */
  const headed = $derived.by(() => {
    const item = desk.items[Math.floor(scrolled / ROW)];
    return item && item.kind !== 'head' ? item.slice : -1;
  });

  const snapshot = $derived(bench.snapshot.snapshot!);
  const slice = (at: number) => snapshot.slices[at]!;
  const sideOf = (item: { slice: number; index: number }, side: Side) =>
    chainSide(
      { snapshot, slice: slice(item.slice), values: shown.values[item.slice]! },
      side,
      item.index,
      desk.settings,
    );
  const isMet = (item: { slice: number; index: number }, side: Side) =>
    desk.met[item.slice]?.some((one) => one.side === side && one.index === item.index) ?? false;
  const placedLegs = $derived(bench.context.legs.map((leg) => placeLeg(snapshot, leg)));
  const picked = (item: { slice: number; index: number }, side: Side) => {
    const found = placedLegs.find((leg) => leg?.slice === item.slice && leg.index === item.index && leg.side === side);
    return found?.quantity ?? 0;
  };

  // The focus stays in sight while the keys move it, and is in the middle when another expiry opens.
  const place = $derived(
    bench.focus.current ? `${snapshot.symbol} ${expiryName(bench.focus.current)} ${bench.focus.current.strike}` : '',
  );
  let lastPlace = '';
  $effect(() => {
    if (!place || !scroller) return;
    untrack(() => void tick().then(() => keepInSight(place)));
  });

  function keepInSight(now: string): void {
    const { current: focus } = bench.focus;
    const at = desk.items.findIndex(
      (item) => item.kind === 'strike' && item.slice === focus?.slice && item.index === focus.index,
    );
    if (!scroller || at < 0 || now !== place) return;
    const expiryOf = (text: string) => text.slice(0, text.lastIndexOf(' '));
    const isOther = expiryOf(place) !== expiryOf(lastPlace);
    lastPlace = place;
    // The head of the columns and that of the expiry lie over the first two lines.
    const [top, room] = [at * ROW, height - 2 * ROW];
    if (isOther) scroller.scrollTop = Math.max(0, top - (room - ROW) / 2);
    else if (top < scrolled + ROW) scroller.scrollTop = top - ROW;
    else if (top > scrolled + room - ROW) scroller.scrollTop = top - room + ROW;
  }

  /** The contract of the cell that an event comes from. */
  function contractOf(event: Event): OptionId | null {
    const cell = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-cell]') : null;
    if (!cell) return null;
    const side = cell.dataset.cell?.startsWith('call') ? 'call' : 'put';
    const expiry = namedExpiry(cell.dataset.expiry!)!;
    return { symbol: snapshot.symbol, ...expiry, strike: Number(cell.dataset.strike), side };
  }

  function point(event: PointerEvent): void {
    bench.focus.pointed = contractOf(event);
  }

  function choose(event: MouseEvent): void {
    const contract = contractOf(event);
    if (!contract) return;
    if (event.ctrlKey || event.metaKey) desk.pick(contract, 1);
    else if (event.shiftKey) desk.pick(contract, -1);
    else bench.focus.set(contract);
  }

  /** The expiry of the focus, exact, for the clipboard. */
  const copiedText = () =>
    bench.focus.current
      ? tabbed(chainTable(shown.snapshot, shown.values, shown.basis, [bench.focus.current.slice]))
      : '';

  /** The lines of the working that columns lead to; others have the name of theirs. */
  const WORKED: Partial<Record<ChainColumnId, string>> = {
    ...{ volume: 'quote', openInterest: 'quote', bidSize: 'quote', askSize: 'quote', last: 'quote', flag: 'quote' },
    ...{ bid: 'quote', ask: 'quote', cost: 'mid', place: 'theory', edgeBid: 'edge', edgeAsk: 'edge' },
    ...{ vol: 'own', bidVol: 'own', midVol: 'own', askVol: 'own', basisVol: 'vol', intrinsic: 'time', carry: 'time' },
  };

  function openWorking(event: MouseEvent): void {
    const contract = contractOf(event);
    if (!contract || event.ctrlKey || event.metaKey || event.shiftKey) return;
    bench.focus.set(contract);
    bench.focus.pointed = contract;
    const id = (event.target as Element)
      .closest<HTMLElement>('[data-cell]')!
      .dataset.cell!.split(' ')[1] as ChainColumnId;
    bench.dialogs.openWorking(WORKED[id] ?? id);
  }

  const PLACES = {
    rich: 'theory lies under the bid: the quote is rich',
    cheap: 'theory lies over the ask: the quote is cheap',
    inside: 'theory lies inside the spread',
    none: undefined,
  };
  const MARKS = { rich: '▲', cheap: '▼', inside: '', none: '' };
  /** Where theory stands in the gauge, whose bid and ask leave room for what lies beyond; a spread of nothing is its middle. */
  const gaugeAt = ({ place }: ChainSide) => (Number.isFinite(place) ? Math.round(10 * (24 + 52 * place)) / 10 : 50);
  const TONES = { rich: 'text-loss', cheap: 'text-gain', inside: 'text-ink', none: '' };
</script>

{#snippet cell(id: ChainColumnId, text: string, side: ChainSide, name: Side, at: string, strike: number)}
  <div
    class="cell relative {name}"
    class:gauge={id === 'place'}
    class:gauge-inside={id === 'place' && side.standing === 'inside'}
    style:--theory={id === 'place' && side.standing === 'inside' ? `${gaugeAt(side)}%` : undefined}
    role="cell"
    data-cell="{name} {id}"
    data-expiry={at}
    data-strike={strike}
    title={id === 'place' ? PLACES[side.standing] : side.reason || undefined}
  >
    {#if id === 'openInterest'}
      <span class="absolute inset-y-[3px] right-0 bg-gain/20" style="width: {100 * side.openShare}%"></span>
      <span class="relative">{text}</span>
    {:else if id === 'theory' && !hasPlace}
      <span class="absolute left-0 text-[9px] {TONES[side.standing]}">{MARKS[side.standing]}</span>{text}
    {:else if id === 'place' && MARKS[side.standing]}
      <!-- Theory beyond the spread; inside it is drawn as a ground, too. -->
      <span class="gauge-mark {TONES[side.standing]}" style="left: {gaugeAt(side)}%">{MARKS[side.standing]}</span>
    {:else}{text}{/if}
  </div>
{/snippet}

{#snippet strikeRow(item: Extract<ChainItem, { kind: 'strike' }>)}
  {@const one = slice(item.slice)}
  {@const strike = one.strike[item.index]!}
  {@const expiry = expiryName(one)}
  {@const call = sideOf(item, 'call')}
  {@const put = sideOf(item, 'put')}
  {@const isLit = lit?.slice === item.slice && lit.index === item.index}
  {@const move = placeInMove(one.strike, item.index, one.fit.forward, one.fit.deviationMove)}
  {@const [callMet, putMet] = [isMet(item, 'call'), isMet(item, 'put')]}
  {@const [callLegs, putLegs] = [picked(item, 'call'), picked(item, 'put')]}
  <div
    class="grid h-full cursor-pointer items-stretch border-b border-line leading-[21px]"
    class:lit={isLit}
    class:call-under={strike < one.fit.forward}
    class:put-under={strike > one.fit.forward}
    class:call-refused={call.reason !== ''}
    class:put-refused={put.reason !== ''}
    class:call-met={callMet}
    class:put-met={putMet}
    style="grid-template-columns: {template}"
    role="row"
    data-focus={bench.focus.current?.slice === item.slice && bench.focus.current.index === item.index}
    data-met={callMet ? 'call' : putMet ? 'put' : undefined}
  >
    {#each callColumns as id, c (id)}{@render cell(id, call.texts[c]!, call, 'call', expiry, strike)}{/each}
    <div
      class="cell relative text-center! font-semibold {isLit ? 'text-focus' : callMet || putMet ? 'text-target' : ''}"
      role="rowheader"
      data-move={move}
      title={move === 'outside'
        ? undefined
        : `${move === 'inside' ? 'within' : 'the first beyond'} one deviation, ${figures.plusMinus(one.fit.deviationMove, bench.market.decimals)}`}
    >
      {#if move === 'inside'}<span class="absolute inset-y-0 left-0 w-[3px] bg-implied/60"></span><span
          class="absolute inset-y-0 right-0 w-[3px] bg-implied/60"
        ></span>{:else if move === 'at' && !callLegs && !putLegs}<span class="absolute left-0 text-[9px] text-implied"
          >◆</span
        ><span class="absolute right-0 text-[9px] text-implied">◆</span>{/if}
      {#if callLegs}<span class="absolute left-1 text-[9px] text-ink" data-testid="leg"
          >{figures.signed(callLegs, 0)}</span
        >{/if}{#if putLegs}<span class="absolute right-1 text-[9px] text-ink" data-testid="leg"
          >{figures.signed(putLegs, 0)}</span
        >{/if}
      {!callLegs && ((isLit && lit?.side === 'call') || callMet) ? '◂ ' : ''}{figures.strike(strike)}{!putLegs &&
      ((isLit && lit?.side === 'put') || putMet)
        ? ' ▸'
        : ''}
    </div>
    {#each puts as id, c (id)}{@render cell(id, put.texts[putAt[c]!]!, put, 'put', expiry, strike)}{/each}
  </div>
{/snippet}

{#snippet columnHeads()}
  <div class="grid border-b border-line" style="grid-template-columns: {template}; height: {ROW}px" role="row">
    {#each callColumns as id, i (id)}
      <div class="head-cell static! border-0!" role="columnheader" title={CHAIN_COLUMNS[id].title}>
        {CHAIN_COLUMNS[id].label}{i === callColumns.length - 1 ? ' △' : ''}
      </div>
    {/each}
    <div class="head-cell static! border-0! text-center!" role="columnheader">strike</div>
    {#each puts as id, i (id)}
      <div class="head-cell static! border-0!" role="columnheader" title={CHAIN_COLUMNS[id].title}>
        {i === 0 ? '▽ ' : ''}{CHAIN_COLUMNS[id].label}
      </div>
    {/each}
  </div>
  {#if headed >= 0}
    {@const one = slice(headed)}
    <div class="absolute inset-x-0" style="top: {ROW}px; height: {ROW}px" aria-hidden="true" inert>
      <ExpiryHead slice={one} isOpen={true} ontoggle={() => desk.toggle(one)} />
    </div>
  {/if}
{/snippet}

{#snippet line(at: number)}
  {@const item = desk.items[at]!}
  {#if item.kind === 'strike'}
    {@render strikeRow(item)}
  {:else if item.kind === 'head'}
    {@const one = slice(item.slice)}
    <div class="h-full" role="row">
      <div class="h-full" role="rowheader">
        <ExpiryHead slice={one} isOpen={desk.isOpen(one)} ontoggle={() => desk.toggle(one)} />
      </div>
    </div>
  {:else}
    {@const one = slice(item.slice)}
    <div
      class="flex h-full items-center justify-center border-y-[1.5px] border-implied bg-panel"
      role="row"
      data-testid="waterline"
    >
      <span class="figures text-[11px]! font-semibold text-implied" role="cell"
        >≈ forward of {shortExpiry(one)} {figures.fixed(one.fit.forward, bench.market.decimals)} ≈</span
      >
    </div>
  {/if}
{/snippet}

<!-- The keys of the whole application do here what the pointer does: arrows move, . flips the side, + and − pick. -->
<RowsInView
  label="Contracts"
  count={desk.items.length}
  height={ROW}
  heads={columnHeads}
  row={line}
  copied={copiedText}
  hasStops={false}
  width="{least}px"
  class="relative min-h-0 flex-1 overflow-auto contain-strict"
  bodyClass="dense"
  body={{
    onpointerover: point,
    onclick: choose,
    ondblclick: openWorking,
    onmousedown: (event) => {
      // Shift-click picks a contract; it must not select text.
      if (event.shiftKey) event.preventDefault();
    },
  }}
  bind:element={scroller}
  bind:scrolled
  bind:room={height}
  onpointerleave={() => (bench.focus.pointed = null)}
  data-testid="chain"
  data-basis={shown.basis}
  data-asof={shown.snapshot.asof}
/>

<style>
  /* The spread from bid to ask, and theory inside it, drawn as grounds: they cost no elements and no layout. */
  .gauge {
    --spread: linear-gradient(var(--soft), var(--soft));
    background-image: var(--spread), var(--spread), var(--spread);
    background-position:
      50% 50%,
      24% 50%,
      76% 50%;
    background-size:
      52% 1px,
      1px 10px,
      1px 10px;
    background-repeat: no-repeat;
  }

  .gauge-inside {
    background-image: linear-gradient(var(--ink), var(--ink)), var(--spread), var(--spread), var(--spread);
    background-position:
      var(--theory) 50%,
      50% 50%,
      24% 50%,
      76% 50%;
    background-size:
      4px 8px,
      52% 1px,
      1px 10px,
      1px 10px;
  }

  .gauge-mark {
    position: absolute;
    top: 0;
    transform: translateX(-50%);
    font-size: 9px;
    line-height: 21px;
  }
</style>

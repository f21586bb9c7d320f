<script lang="ts">
  import {
    expiryName,
    placeLegs,
    sideOf,
    tradedStructures,
    TRADED_KINDS,
    type TradedKind,
    type TradedStructure,
  } from '@umwelt/core';
  import { loadTape, type Tape } from '$lib/data/tape';
  import { offerTable } from '$lib/exports';
  import { clockTime, figures } from '$lib/formats';
  import { Loaded, useWorkbench } from '$lib/state';
  import { legWords } from '$lib/structure';
  import { numberColumns, tabbed, type DataTable } from '$lib/tables';
  import { RowsInView } from '$lib/ui';

  /** What traded as structures, by size: each with its price against theory at its time, and what it asks now. */
  const bench = useWorkbench();
  const ROW = 20;
  const TEMPLATE = '66px 84px minmax(0, 1fr) 44px 44px 54px 78px 56px 60px';
  const decimals = $derived(bench.market.decimals);
  let kind = $state<TradedKind | ''>('');
  let expiry = $state('');

  const tape = new Loaded<Tape>(() => {
    const { symbol } = bench.context;
    const to = bench.moment.summary?.asof;
    void bench.market.edition;
    return symbol && to ? loadTape(symbol, to, { size: 0, legs: 'several', against: 'all' }) : undefined;
  });
  const current = $derived(tape.value?.symbol === bench.context.symbol ? tape.value : null);
  const found = $derived(
    tradedStructures(
      (current?.prints ?? []).map((print) => ({
        ...{ group: print.group ?? '', time: Date.parse(print.time), expiry: print.expiry, strike: print.strike },
        ...{ settlement: print.settlement ?? null, side: print.side, price: print.price, size: print.size },
        theory: print.theory ?? NaN,
      })),
    ),
  );
  const nameOf = (leg: TradedStructure['legs'][number]) =>
    expiryName({ expiry: leg.expiry, settlement: leg.settlement ?? 'pm' });
  const expiries = $derived([...new Set(found.flatMap(({ legs }) => legs.map(nameOf)))].sort());
  const kinds = $derived(TRADED_KINDS.filter((one) => found.some((structure) => structure.kind === one)));

  interface Row extends TradedStructure {
    /** At the middle now; NaN where a leg is not quoted or not listed. */
    now: number;
  }
  const rows = $derived.by((): Row[] => {
    const { snapshot } = bench.snapshot;
    const { symbol } = bench.context;
    if (!symbol) return [];
    return found
      .filter(
        (one) =>
          (kind === '' || one.kind === kind) && (expiry === '' || one.legs.some((leg) => nameOf(leg) === expiry)),
      )
      .map((one) => {
        const placed =
          snapshot &&
          placeLegs(
            snapshot,
            one.legs.map((leg) => ({ ...leg, symbol })),
          );
        const now = placed?.reduce((sum, { slice, side, index, quantity }) => {
          const { bid, ask } = sideOf(snapshot!.slices[slice]!, side);
          return sum + quantity * 0.5 * (bid[index]! + ask[index]!);
        }, 0);
        return { ...one, now: now ?? NaN };
      });
  });

  const HEADS: readonly { label: string; align?: 'left'; title?: string }[] = [
    { label: 'last' },
    { label: 'what', align: 'left' },
    { label: 'legs', align: 'left' },
    { label: 'trades' },
    { label: 'size', title: 'of the structure, over all trades' },
    { label: 'paid', title: 'mean by size: positive where money was paid' },
    { label: 'theory then', title: 'on the curve of its time' },
    { label: 'over it', title: 'paid less theory' },
    { label: 'mid now' },
  ];
  const wordsOf = ({ legs }: TradedStructure) => legs.map((leg) => legWords(leg)).join(', ');

  function take({ legs }: TradedStructure): void {
    const { symbol } = bench.context;
    if (!symbol) return;
    bench.context.held = 0;
    bench.context.legs = legs.map((leg) => ({ ...leg, symbol }));
  }

  const table = (): DataTable => ({
    columns: [
      { name: 'last', type: 'instant' },
      { name: 'kind', type: 'text' },
      { name: 'legs', type: 'text' },
      ...numberColumns(['trades', 'size', 'paid', 'theory', 'mid now']),
    ],
    rows: rows.map((row) => [
      new Date(row.last).toISOString(),
      row.kind,
      wordsOf(row),
      row.trades,
      row.size,
      row.price,
      row.theory,
      row.now,
    ]),
  });

  offerTable(
    'traded-structures',
    () => `Structures traded on ${bench.context.symbol}`,
    () => (current ? table() : null),
  );
</script>

<div class="flex flex-none items-center gap-3 px-3 pb-1 text-[12px] text-soft">
  <label class="flex items-center gap-1"
    >kind
    <select
      class="choice"
      aria-label="Kind of what traded"
      bind:value={kind}
      onkeydown={(event) => event.stopPropagation()}
    >
      <option value="">all</option>
      {#each kinds as one (one)}<option value={one}>{one}</option>{/each}
    </select></label
  >
  <label class="flex items-center gap-1"
    >with an expiry of
    <select
      class="choice"
      aria-label="Expiry of what traded"
      bind:value={expiry}
      onkeydown={(event) => event.stopPropagation()}
    >
      <option value="">any day</option>
      {#each expiries as one (one)}<option value={one}>{one}</option>{/each}
    </select></label
  >
  {#if tape.problem}<span class="text-loss" role="alert">{tape.problem}</span>{/if}
</div>
<RowsInView
  label="What traded as structures"
  count={rows.length}
  height={ROW}
  class="min-h-0 flex-1 overflow-x-hidden overflow-y-auto border-t border-line contain-strict"
  bodyClass="dense"
  copied={() => tabbed(table())}
  data-testid="traded-structures"
>
  {#snippet heads()}
    <div class="grid border-b border-line" style="grid-template-columns: {TEMPLATE}" role="row">
      {#each HEADS as { label, align, title } (label)}
        <div class="head-cell static! border-0! {align === 'left' ? 'text-left!' : ''}" role="columnheader" {title}>
          {label}
        </div>
      {/each}
    </div>
  {/snippet}
  {#snippet none()}
    <p class="m-0 px-3 py-2 text-[12px] text-soft">
      {current ? 'No trade of several legs is held of this session.' : 'Loading …'}
    </p>
  {/snippet}
  {#snippet row(at: number)}
    {@const one = rows[at]!}
    <div
      class="grid h-full items-center border-b border-line hover:bg-band"
      style="grid-template-columns: {TEMPLATE}"
      role="row"
      aria-rowindex={at + 2}
    >
      <div class="cell figures" role="cell">
        {clockTime(new Date(one.last).toISOString(), bench.market.calendar.zone)}
      </div>
      <div class="cell truncate text-left!" role="cell">{one.kind}</div>
      <div class="cell truncate text-left!" role="rowheader">
        <button
          class="cursor-pointer hover:underline"
          data-stop
          tabindex="-1"
          title="take it in hand: {wordsOf(one)}"
          onclick={() => take(one)}>{wordsOf(one)}</button
        >
      </div>
      <div class="cell" role="cell">{figures.count(one.trades)}</div>
      <div class="cell font-semibold" role="cell">{figures.count(one.size)}</div>
      <div class="cell" role="cell">{figures.fixed(one.price, decimals)}</div>
      <div class="cell" role="cell">{figures.fixed(one.theory, decimals)}</div>
      <div class="cell {one.price > one.theory ? 'text-gain' : 'text-loss'}" role="cell">
        {figures.signed(one.price - one.theory, decimals)}
      </div>
      <div class="cell" role="cell">{figures.fixed(one.now, decimals)}</div>
    </div>
  {/snippet}
</RowsInView>

<script lang="ts">
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { DataGrid, type Head } from '$lib/ui';
  import type { PricerDesk } from './desk.svelte';
  import { contractsOf, gapOf, gapTable, type Gap } from './gap';
  import { Latest } from '$lib/data/latest';
  import { pricerWorker } from './worker';
  import { moneyDecimals } from './words';

  let { desk }: { desk: PricerDesk } = $props();

  const bench = useWorkbench();
  const decimals = $derived(moneyDecimals(desk.decimals));
  let found = $state.raw<{ gap: Gap; prices: number[] } | null>(null);
  let problem = $state<string | null>(null);

  const gap = $derived.by(() => {
    const { shown } = bench.snapshot;
    const { current: focus } = bench.focus;
    const { current, calendar } = bench.market;
    return shown && focus && current && desk.reference
      ? gapOf(shown, focus, desk.reference, current.events, calendar)
      : null;
  });
  const asking = new Latest<NonNullable<typeof found>>(
    (answer) => (found = answer),
    (words) => (problem = words),
  );
  $effect(() => {
    const wanted = gap;
    if (!wanted) return;
    asking.ask(async () => ({ gap: wanted, prices: await pricerWorker().prices(contractsOf(wanted)) }));
  });

  const table = $derived(found ? gapTable(found.gap, found.prices, desk.factor) : null);
  offerTable(
    'theory-and-market',
    () => 'Theory against market',
    () => table,
  );

  const NAMES: Record<string, string> = {
    theory: 'theory, as loaded',
    left: 'left, by what they do to each other',
    mid: 'mid of the market',
  };
  const signed = (value: number) => (Number.isNaN(value) ? '' : figures.signed(value, decimals));

  const HEADS: readonly Head[] = [
    { label: 'with', align: 'left' },
    { label: '', align: 'left' },
    { label: 'price' },
    { label: 'explains' },
    { label: 'of the gap' },
    { label: 'in turn' },
  ];
</script>

<div class="min-h-0 flex-1 overflow-auto px-3 pb-2">
  {#if problem}
    <p class="text-loss">{problem}</p>
  {:else if !gap}
    <p class="text-soft">This contract has no quote to be compared with.</p>
  {:else if !found}
    <p class="text-soft">Pricing …</p>
  {:else if table}
    <DataGrid
      label="The gap to the market"
      heads={HEADS}
      rows={table.rows}
      keyOf={([name]) => name}
      isDense
      area="flex-none"
      testid="gap"
      rowClass={([name]) => name === 'mid' && 'font-bold'}
    >
      {#snippet row([name, detail, price, explains, share, inTurn])}
        {@const isMid = name === 'mid'}

        <th class="py-0.5 pr-2 text-left text-[12px] whitespace-nowrap {isMid ? '' : 'font-normal'}"
          >{NAMES[name as string] ?? name}</th
        >
        <td class="text-[11px] text-soft">{name === 'theory' ? `${bench.snapshot.shown?.basis} basis` : detail}</td>
        <td class="cell">{Number.isNaN(price) ? '' : figures.fixed(price as number, decimals)}</td>
        <td class="cell {(explains as number) < 0 ? 'text-loss' : 'text-gain'}">{signed(explains as number)}</td>
        <td class="cell font-normal text-soft"
          >{Number.isNaN(share) || isMid ? '' : figures.percent(share as number, 0)}</td
        >
        <td class="cell {(inTurn as number) < 0 ? 'text-loss' : 'text-gain'}">{signed(inTurn as number)}</td>
      {/snippet}
    </DataGrid>
    <p class="mt-2 mb-0 text-[11px] text-soft">
      The contract in focus as it is loaded, with one thing done otherwise at a time: such reasons overlap. In turn each
      is put upon those above it, and what is left is what they do to each other: these add up to the gap.
    </p>
  {/if}
</div>

<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { figures } from '$lib/formats';
  import { useParams, useWorkbench } from '$lib/state';
  import { DataGrid, Toggles, type Head } from '$lib/ui';
  import type { HedgeDesk } from './desk.svelte';
  import { CHOICES, COUNTS, PARAMS, type Choice, type Count } from './params';
  import { halfSpread } from './plan';

  /** Contracts that may be taken, and how they are chosen. */
  let { desk }: { desk: HedgeDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const price = $derived(bench.snapshot.snapshot?.price ?? NaN);
  const rows = $derived(desk.told?.instruments ?? []);
  const steps = $derived(desk.plan?.steps ?? []);
  const HEADS: readonly Head[] = [
    { label: 'contract', align: 'left' },
    { label: 'half spread', title: 'in points of vol' },
    {
      label: 'gamma/vega',
      title: 'what a move of 1 per cent changes in money (gamma × price² ÷ 100), for each of vega',
    },
    { label: 'open', title: 'open interest' },
  ];
  const CHOICE_TITLES: Record<Choice, string> = {
    fewest: 'of more contracts than are needed those with the fewest in all',
    cheapest: 'those that cost the least to cross their spreads',
    steadiest: 'those that leave the least of profit (its squares) by moves of two deviations and five points of vol',
  };
  const COUNT_TITLES: Record<Count, string> = {
    whole: 'whole contracts: of those around what is wanted the ones that leave the least',
    exact: 'fractions of contracts, which leave nothing',
  };
</script>

<section class="panel min-h-0 flex-1" aria-label="Instruments">
  <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Instruments</h2>
    <span class="flex-1 text-[11.5px] text-soft">near the forward, tight</span>
    <button class="btn btn-xs" title="offers the contract in focus too" onclick={() => desk.add()}>+ focus</button>
  </header>
  <DataGrid
    label="Instruments"
    heads={HEADS}
    {rows}
    keyOf={({ id }) => id}
    isLit={({ id }) => steps.some((step) => step.id === id)}
    isDense
    isEdged
    testid="instruments"
    none={desk.problem ?? 'No contract near the forward has a market.'}
  >
    {#snippet row({ leg, words, values, openInterest })}
      <th class="cell text-left! font-[inherit] whitespace-nowrap">
        <label class="inline-flex items-center gap-1.5"
          ><input
            type="checkbox"
            class="checkbox checkbox-xs"
            checked={desk.isTaken(leg)}
            onchange={() => desk.toggle(leg)}
          />{words}</label
        >
        {#if desk.isAdded(leg)}<button
            class="cursor-pointer text-soft hover:text-ink"
            aria-label="Without {words}"
            onclick={() => desk.drop(leg)}><X size={11} /></button
          >{/if}
      </th>
      <td class="cell">{figures.fixed(halfSpread(values) / values.vega, 2)}</td>
      <td class="cell">{figures.fixed((values.gamma * price * price) / 100 / values.vega, 0)}</td>
      <td class="cell">{figures.count(openInterest)}</td>
    {/snippet}
  </DataGrid>
  <div class="flex flex-none flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1.5 text-[12px] text-soft">
    <span class="flex items-center gap-1.5"
      >contracts <Toggles
        label="Contracts"
        options={COUNTS}
        bind:value={params.count}
        titles={(one) => COUNT_TITLES[one]}
      /></span
    >
    <span class="flex items-center gap-1.5"
      >choose <Toggles
        label="Choose"
        options={CHOICES}
        bind:value={params.choice}
        titles={(one) => CHOICE_TITLES[one]}
      /></span
    >
  </div>
</section>

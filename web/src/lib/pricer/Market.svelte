<script lang="ts">
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import type { PricerDesk } from './desk.svelte';
  import { gapOf, gapTable, type Gap } from './gap';
  import { Latest, pricerWorker } from './latest';
  import { moneyDecimals } from './words';

  let { desk }: { desk: PricerDesk } = $props();

  const bench = useWorkbench();
  const decimals = $derived(moneyDecimals(desk.decimals));
  let found = $state.raw<{ gap: Gap; prices: number[] } | null>(null);
  let problem = $state<string | null>(null);

  const gap = $derived.by(() => {
    const { shown, focus, current, calendar } = bench;
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
    const contracts = [wanted.theory, ...wanted.reasons.map(({ contract }) => contract)];
    asking.ask(async () => ({ gap: wanted, prices: await pricerWorker().prices(contracts) }));
  });

  offerTable(
    'theory-and-market',
    () => 'Theory against market',
    () => (found ? gapTable(found.gap, found.prices, desk.factor) : null),
  );
</script>

<div class="min-h-0 flex-1 overflow-auto px-3 pb-2">
  {#if problem}
    <p class="text-loss">{problem}</p>
  {:else if !gap}
    <p class="text-soft">This contract has no quote to be compared with.</p>
  {:else if !found}
    <p class="text-soft">Pricing …</p>
  {:else}
    {@const [theory = NaN, ...prices] = found.prices}
    {@const apart = found.gap.mid - theory}
    <table class="dense w-full border-collapse" data-testid="gap">
      <thead>
        <tr>
          <th class="head-cell text-left!">with</th>
          <th class="head-cell text-left!"></th>
          <th class="head-cell">price</th>
          <th class="head-cell">explains</th>
          <th class="head-cell">of the gap</th>
        </tr>
      </thead>
      <tbody>
        <tr class="border-b border-line">
          <th class="py-0.5 text-left text-[12px] font-normal">theory, as loaded</th>
          <td class="text-[11px] text-soft">{bench.shown?.basis} basis</td>
          <td class="cell">{figures.fixed(theory * desk.factor, decimals)}</td>
          <td class="cell"></td>
          <td class="cell"></td>
        </tr>
        {#each found.gap.reasons as { name, detail }, i (name)}
          {@const explains = prices[i]! - theory}
          <tr class="border-b border-line">
            <th class="py-0.5 text-left text-[12px] font-normal whitespace-nowrap">{name}</th>
            <td class="text-[11px] text-soft">{detail}</td>
            <td class="cell">{figures.fixed(prices[i]! * desk.factor, decimals)}</td>
            <td class="cell {explains < 0 ? 'text-loss' : 'text-gain'}"
              >{figures.signed(explains * desk.factor, decimals)}</td
            >
            <td class="cell text-soft">{apart === 0 ? figures.NOTHING : figures.percent(explains / apart, 0)}</td>
          </tr>
        {/each}
        <tr>
          <th class="py-0.5 text-left text-[12px]">mid of the market</th>
          <td></td>
          <td class="cell font-bold">{figures.fixed(found.gap.mid * desk.factor, decimals)}</td>
          <td class="cell font-bold">{figures.signed(apart * desk.factor, decimals)}</td>
          <td class="cell"></td>
        </tr>
      </tbody>
    </table>
    <p class="mt-2 mb-0 text-[11px] text-soft">
      The contract in focus as it is loaded, with one thing done otherwise at a time: reasons overlap and do not add up.
    </p>
  {/if}
</div>

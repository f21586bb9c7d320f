<script lang="ts">
  import type { ModelId, SideReading } from '@umwelt/core';
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import { numberColumns } from '$lib/tables/data-table';
  import { DataGrid, type Head } from '$lib/ui';
  import type { PricerDesk } from './desk.svelte';
  import { Latest } from '$lib/data/latest';
  import { pricerWorker } from './worker';
  import { MODEL_NAMES, moneyDecimals } from './words';

  let { desk }: { desk: PricerDesk } = $props();

  let rows = $state.raw<{ model: ModelId; note: string | null; reading: SideReading }[]>([]);
  let problem = $state<string | null>(null);

  const asking = new Latest<typeof rows>(
    (found) => (rows = found),
    (words) => (problem = words),
  );
  $effect(() => {
    const { contract } = desk;
    if (contract) asking.ask(() => pricerWorker().compare(contract));
  });

  const NAMES = ['price', 'delta', 'gamma', 'theta', 'vega', 'rho'] as const;
  const own = $derived(desk.priced?.[desk.side].price ?? NaN);
  const money = (name: (typeof NAMES)[number], value: number) =>
    name === 'price'
      ? figures.fixed(value * desk.factor, moneyDecimals(desk.decimals))
      : figures.significant(value * desk.factor, 4);

  offerTable(
    'models',
    () => 'Model against model',
    () =>
      rows.length === 0
        ? null
        : {
            columns: [{ name: 'model', type: 'text' }, ...numberColumns(NAMES), { name: 'note', type: 'text' }],
            rows: rows.map(({ model, note, reading }) => [
              model,
              ...NAMES.map((name) => reading[name] * desk.factor),
              note,
            ]),
          },
  );

  const heads = $derived<readonly Head[]>([
    { label: desk.side, align: 'left' },
    { label: 'price' },
    { label: 'apart', title: 'against the model in use' },
    ...NAMES.slice(1).map((label) => ({ label })),
  ]);
</script>

<div class="min-h-0 flex-1 overflow-auto px-3 pb-2">
  {#if problem}
    <p class="text-loss">{problem}</p>
  {:else if rows.length === 0}
    <p class="text-soft">Pricing …</p>
  {:else}
    <DataGrid
      label="Models beside each other"
      {heads}
      {rows}
      keyOf={({ model }) => model}
      isDense
      area="flex-none"
      testid="models"
      isLit={({ model }) => model === desk.terms?.model}
    >
      {#snippet row({ model, note, reading })}
        <th class="py-0.5 pl-1 text-left text-[12px] font-normal">
          {MODEL_NAMES[model]}{#if note}<span class="block text-[11px] text-soft">{note}</span>{/if}
        </th>
        <td class="cell font-bold">{money('price', reading.price)}</td>
        <td class="cell">{figures.signed((reading.price - own) * desk.factor, moneyDecimals(desk.decimals))}</td>
        {#each NAMES.slice(1) as name (name)}<td class="cell">{money(name, reading[name])}</td>{/each}
      {/snippet}
    </DataGrid>
    <p class="mt-2 mb-0 text-[11px] text-soft">
      The same contract at the same vol on the same forward. Delta and gamma of the models on the forward are to the
      forward.
    </p>
  {/if}
</div>

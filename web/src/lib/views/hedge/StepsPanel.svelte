<script lang="ts">
  import { UNDERLYING_ID } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useParams, useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head } from '$lib/ui';
  import type { HedgeDesk } from './desk.svelte';
  import { PARAMS } from './params';
  import { amount, planSentence } from './plan';

  /** The trades as on paper: units × Greek of one unit = Greek of the position, and what is left after each. */
  let { desk }: { desk: HedgeDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const SHOWN = ['delta', 'gamma', 'vega', 'theta'] as const;
  type Greeks = Record<(typeof SHOWN)[number], number>;

  interface Row {
    key: string;
    step: string;
    words: string;
    lots: number | null;
    units: number | null;
    price: number | null;
    unit: Greeks | null;
    position: Greeks;
    cash: number | null;
    isSum: boolean;
  }

  const rows = $derived.by((): Row[] => {
    const { plan, exposure, told } = desk;
    if (!plan || !exposure) return [];
    const sum = (key: string, words: string, position: Greeks, cash: number | null): Row => ({
      ...{ key, words, position, cash, isSum: true },
      ...{ step: '', lots: null, units: null, price: null, unit: null },
    });
    let cash = 0;
    const steps = plan.steps.flatMap(({ id, quantity, position, cumulative }, i): Row[] => {
      const isUnderlying = id === UNDERLYING_ID;
      const values = told?.instruments.find((one) => one.id === id)?.values;
      const units = quantity * (isUnderlying ? desk.lot : desk.multiplier);
      // What is bought is paid at the ask, what is sold brings the bid.
      const price = values ? (quantity > 0 ? values.ask : values.bid) : bench.snapshot.snapshot?.price;
      // A future is not paid for, nor is what stands for an index.
      const isMargined = ['future', 'index'].includes(bench.market.underlying?.kind ?? '');
      const paid = isUnderlying && isMargined ? 0 : -units * (price ?? NaN);
      cash += paid;
      const row: Row = {
        ...{ key: id, step: String(i + 1), words: desk.nameOf(id), lots: quantity, units, isSum: false },
        ...{ price: price ?? null, position, cash: paid },
        unit: values ?? { delta: 1, gamma: 0, vega: 0, theta: 0 },
      };
      const isLast = i === plan.steps.length - 1;
      return [row, sum(`after ${id}`, isLast ? 'what is left' : 'after it', cumulative, cash)];
    });
    return [sum('exposure', 'exposure', exposure, null), ...steps];
  });

  const HEADS: readonly Head[] = [
    { label: 'step', align: 'left' },
    { label: 'contract', align: 'left' },
    { label: 'lots', title: 'bought is plus' },
    { label: 'units', title: 'lots × multiplier' },
    { label: 'price', title: 'bought at the ask, sold at the bid' },
    ...SHOWN.map((label) => ({ label, title: 'of one unit' })),
    ...SHOWN.map((label) => ({ label: `Σ ${label}`, title: 'of the position: units × that of one unit' })),
    { label: 'cash', title: 'paid is minus' },
  ];
  const DIGITS: Record<(typeof SHOWN)[number], number> = { delta: 3, gamma: 5, vega: 2, theta: 2 };
  const lotDigits = $derived(params.count === 'whole' ? 0 : 2);

  offerTable(
    'hedge',
    () => `Trades that hedge on ${bench.context.symbol}`,
    () =>
      rows.length > 0
        ? {
            columns: [
              ...(['step', 'contract'] as const).map((name) => ({ name, type: 'text' as const })),
              ...numberColumns([
                'lots',
                'units',
                'price',
                ...SHOWN,
                ...SHOWN.map((name) => `position_${name}`),
                'cash',
              ]),
            ],
            rows: rows.map(({ step, words, lots, units, price, unit, position, cash }) => [
              ...[step, words, lots, units, price],
              ...SHOWN.map((name) => unit?.[name] ?? null),
              ...SHOWN.map((name) => position[name]),
              cash,
            ]),
          }
        : null,
  );
</script>

<section class="panel min-h-0 flex-1" aria-label="Steps">
  <header class="flex flex-none items-baseline gap-3 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Steps</h2>
    <span class="min-w-0 flex-1 truncate text-[12px] text-soft"
      >units × Greek of one unit = Greek of the position; vega a point, theta a day</span
    >
    {#if desk.hasOther}
      <button class="btn btn-xs" title="nothing is drawn under these trades" onclick={() => desk.dropOther()}
        >drop the other</button
      >
    {/if}
    <button
      class="btn btn-xs"
      disabled={!desk.hasLegs || rows.length < 2}
      title="keep these trades as another hedge, which those to come are drawn over"
      onclick={() => desk.putBeside()}>put beside</button
    >
    <button
      class="btn btn-xs"
      disabled={rows.length < 2 || params.count !== 'whole'}
      title="as trades of a position, at what they are bought and sold for"
      onclick={() => desk.book()}>into the book</button
    >
    <button
      class="btn btn-xs"
      disabled={!desk.canTake || rows.length < 2}
      title={desk.hasLegs ? 'what is exposed with the trades beside it' : 'what is typed has no legs'}
      onclick={() => desk.take()}>take in hand</button
    >
  </header>
  {#if rows.length > 0}
    <DataGrid label="Steps" heads={HEADS} {rows} keyOf={({ key }) => key} isDense isEdged testid="hedge-steps">
      {#snippet row({ step, words, lots, units, price, unit, position, cash, isSum })}
        <td class="cell text-left! {isSum ? 'bg-band' : ''}">{step}</td>
        <th class="cell text-left! whitespace-nowrap {isSum ? 'bg-band font-normal text-soft' : ''}">{words}</th>
        <td class="cell {isSum ? 'bg-band' : ''}"><b>{lots === null ? '' : figures.signed(lots, lotDigits)}</b></td>
        <td class="cell {isSum ? 'bg-band' : ''}">{units === null ? '' : figures.signed(units, lotDigits)}</td>
        <td class="cell {isSum ? 'bg-band' : ''}">{price === null ? '' : figures.fixed(price, decimals)}</td>
        {#each SHOWN as name (name)}
          <td class="cell text-soft {isSum ? 'bg-band' : ''}"
            >{unit ? figures.signed(unit[name], unit[name] === 0 ? 0 : DIGITS[name]) : ''}</td
          >
        {/each}
        {#each SHOWN as name (name)}
          <td class="cell {isSum ? 'bg-band font-semibold' : ''}">{amount(position[name])}</td>
        {/each}
        <td class="cell {isSum ? 'bg-band' : ''}">{cash === null ? '' : figures.signed(cash, 0)}</td>
      {/snippet}
    </DataGrid>
    {#if desk.plan}
      <div class="flex-none p-2">
        <Sentence sentence={planSentence(desk.plan, (id) => desk.nameOf(id), params.wanted, params.count)} />
      </div>
    {/if}
  {:else}
    <p class="m-auto px-6 text-center text-soft" role={desk.refused ? 'alert' : undefined} data-testid="hedge-none">
      {desk.refused ? `No hedge: ${desk.refused}.` : (desk.missing ?? desk.problem ?? 'Working out …')}
    </p>
  {/if}
</section>

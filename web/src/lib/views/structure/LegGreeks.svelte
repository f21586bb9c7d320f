<script lang="ts">
  import { inViewTerms, MOVED_GREEKS, type MovedGreek, type MovedValues } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { legWords } from '$lib/structure';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';

  /** Values and Greeks of the legs, for all of each, by the price in view, and their sum. */
  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const answer = $derived(desk.told);
  const NAMES = ['value', ...MOVED_GREEKS] as const;
  const DIGITS: Record<MovedGreek, number> = {
    ...{ delta: 2, gamma: 4, theta: 2, vega: 2, rho: 2, vanna: 3, volga: 3, charm: 3, veta: 3 },
  };
  const heads: Head[] = [{ label: 'leg', align: 'left' }, ...NAMES.map((name) => ({ label: name }))];

  interface Row {
    name: string;
    values: Record<keyof MovedValues, number>;
  }
  const times = (values: MovedValues, quantity: number): MovedValues =>
    Object.fromEntries(NAMES.map((name) => [name, values[name] * quantity])) as MovedValues;
  const rows = $derived.by((): Row[] => {
    if (!answer) return [];
    const { request, evaluation, ratios } = answer;
    const ofLegs = evaluation.legs.map((own, i): Row => {
      const leg = request.legs[i];
      const ratio = ratios[i] ?? 1;
      const values = inViewTerms(own, ratio);
      return {
        name: leg
          ? `${legWords(leg)}${ratio === 1 ? '' : ` ${leg.symbol}`}`
          : `${figures.signed(request.held * desk.multiplier, 0)} ${bench.context.symbol} itself`,
        values: times(values, (leg?.quantity ?? request.held) * desk.times),
      };
    });
    return [...ofLegs, { name: 'all', values: times(evaluation.values, desk.times) }];
  });
  const text = (name: keyof MovedValues, value: number) =>
    name === 'value' ? figures.fixed(value, desk.digits) : figures.signed(value, DIGITS[name]);

  offerTable(
    'leg-greeks',
    () => `Greeks of the legs on ${bench.context.symbol}`,
    () =>
      answer && {
        columns: [{ name: 'leg', type: 'text' }, ...numberColumns([...NAMES])],
        rows: rows.map(({ name, values }) => [name, ...NAMES.map((one) => values[one])]),
      },
  );
</script>

{#if answer}
  <DataGrid label="Greeks of the legs" {heads} {rows} keyOf={({ name }) => name} isDense isEdged testid="leg-greeks">
    {#snippet row({ name, values }, i)}
      <th class="cell text-left! whitespace-nowrap {i === rows.length - 1 ? 'font-bold' : 'font-[inherit]'}">{name}</th>
      {#each NAMES as one (one)}
        <td class="cell {i === rows.length - 1 ? 'font-bold' : ''}">{text(one, values[one])}</td>
      {/each}
    {/snippet}
  </DataGrid>
{:else}
  <p class="m-auto text-soft">{desk.waiting}</p>
{/if}

<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { figures } from '$lib/formats';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, type Head } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';

  let { desk }: { desk: StructureDesk } = $props();

  /** Profit by moves of the price and factors of the vols, against the fill. */
  const answer = $derived(desk.told);
  const heads = $derived<Head[]>([
    { label: 'vol', align: 'left', title: 'times what it is' },
    ...(answer?.evaluation.stress.moves.map((move) => ({
      label: move === 0 ? 'price now' : `${figures.signed(move, 0)} σ`,
      title: 'deviations of the first expiry',
    })) ?? []),
  ]);
  const rows = $derived(
    answer?.evaluation.stress.volFactors.map((factor, i) => ({ factor, pnl: answer.evaluation.stress.pnl[i]! })) ?? [],
  );
  const worst = $derived(Math.min(...rows.flatMap(({ pnl }) => pnl)));
  const money = (value: number) => figures.signed(value * desk.times, desk.digits);

  offerTable(
    'stress',
    () => 'Stress of the structure, per unit',
    () =>
      answer && {
        columns: numberColumns(['vol factor', ...answer.evaluation.stress.moves.map((move) => `${move} sd`)]),
        rows: rows.map(({ factor, pnl }) => [factor, ...pnl]),
      },
  );
</script>

{#if answer}
  <DataGrid label="Stress" {heads} {rows} keyOf={({ factor }) => factor} isDense isEdged testid="structure-stress">
    {#snippet row({ factor, pnl })}
      <th class="cell text-left! font-[inherit]">× {figures.fixed(factor, 1)}</th>
      {#each pnl as value, i (i)}
        <td class="cell {value < 0 ? 'text-loss' : ''} {value === worst ? 'font-bold underline decoration-dotted' : ''}"
          >{money(value)}</td
        >
      {/each}
    {/snippet}
  </DataGrid>
{:else}
  <p class="m-auto text-soft">{desk.waiting}</p>
{/if}

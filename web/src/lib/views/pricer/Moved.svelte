<script lang="ts">
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import { DataGrid, type Head } from '$lib/ui';
  import type { PricerDesk } from './desk.svelte';
  import { moveTable } from './moved';
  import { inputChange, inputName, inputText, moneyDecimals } from './words';

  let { desk }: { desk: PricerDesk } = $props();

  const money = $derived((value: number) => figures.signed(value * desk.factor, moneyDecimals(desk.decimals)));
  const move = $derived(desk.move?.move ?? null);
  const model = $derived(desk.move?.to.model ?? 'american');

  offerTable(
    'moved',
    () => 'What moved',
    () => (desk.move ? moveTable(desk.move.move, desk.move.to.model, desk.factor) : null),
  );

  const HEADS: readonly Head[] = [
    { label: '', align: 'left' },
    ...['loaded', 'now', 'change', 'explains', 'by the Greeks'].map((label) => ({ label })),
  ];
</script>

<div class="flex min-h-0 flex-col gap-2 px-3 pb-2">
  {#if move && move.steps.length > 0}
    {@const total = move.after - move.before.price}
    {@const estimates = move.steps.reduce((sum, step) => sum + step.estimate, move.togetherEstimate)}
    <DataGrid
      label="What moved"
      heads={HEADS}
      rows={move.steps}
      keyOf={(step) => step.input}
      area="min-h-0 overflow-auto"
      testid="moved"
    >
      {#snippet row(step)}
        <th class="py-0.5 text-left text-[12px] font-normal">{inputName(step.input, model)}</th>
        <td class="cell text-soft">{inputText(step.input, step.from, desk.decimals)}</td>
        <td class="cell">{inputText(step.input, step.to, desk.decimals)}</td>
        <td class="cell">{inputChange(step.input, step.to - step.from, desk.decimals)}</td>
        <td class="cell {step.exact < 0 ? 'text-loss' : 'text-gain'}">{money(step.exact)}</td>
        <td class="cell text-soft">{money(step.estimate)}</td>
      {/snippet}
      {#snippet below()}{#if move.steps.length > 1}
          <tr class="border-b border-line">
            <th
              class="py-0.5 text-left text-[12px] font-normal"
              colspan="4"
              title="what is left of the whole after each change alone">to each other</th
            >
            <td class="cell">{money(move.together)}</td>
            <td class="cell text-soft">{money(move.togetherEstimate)}</td>
          </tr>
        {/if}
        <tr>
          <th class="py-0.5 text-left text-[12px]">{desk.side}, price</th>
          <td class="cell text-soft">{figures.fixed(move.before.price * desk.factor, moneyDecimals(desk.decimals))}</td>
          <td class="cell">{figures.fixed(move.after * desk.factor, moneyDecimals(desk.decimals))}</td>
          <td class="cell"></td>
          <td class="cell font-bold {total < 0 ? 'text-loss' : 'text-gain'}">{money(total)}</td>
          <td class="cell text-soft">{money(estimates)}</td>
        </tr>{/snippet}
    </DataGrid>
    <p class="m-0 text-[11px] text-soft">
      Each change alone, by pricing anew and by the Greeks of the loaded state, second order for price and vol. Yield
      and dividends have none.
    </p>
  {:else}
    <p class="m-0 text-soft">
      Change price, vol, days or a rate at the left, one at a time or together: here stands what each explains.
    </p>
  {/if}
</div>

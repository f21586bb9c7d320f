<script lang="ts">
  import type { Contract, Input, Output } from '@umwelt/core';
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import type { PricerDesk } from './desk.svelte';
  import { Latest } from '$lib/data/latest';
  import { pricerWorker } from './worker';
  import { mapTable, sweepMap, tints, type SweepMap } from './sweep-map';
  import { inputName, inputText, isMoney, OUTPUT_NAMES, outputScale } from './words';

  let { desk, along, by, output }: { desk: PricerDesk; along: Input; by: Input; output: Output } = $props();

  let drawn = $state.raw<{ map: SweepMap; curves: Float64Array[]; contract: Contract; output: Output } | null>(null);
  let problem = $state<string | null>(null);

  const asking = new Latest<NonNullable<typeof drawn>>(
    (found) => (drawn = found),
    (words) => (problem = words),
  );
  $effect(() => {
    const { contract } = desk;
    if (!contract) return;
    const [map, wanted] = [sweepMap(contract, along, by, output), output];
    asking.ask(async () => ({ map, curves: await pricerWorker().sweep(map.lines), contract, output: wanted }));
  });

  /** One number of decimals for the whole map: four digits of its largest value. */
  const decimals = $derived.by(() => {
    if (!drawn) return 2;
    const scale = Math.abs(outputScale(drawn.output, desk.factor));
    const largest = Math.max(...drawn.curves.flatMap((curve) => [...curve].map(Math.abs).filter(Number.isFinite)));
    return largest > 0 ? figures.significantDecimals(largest * scale, 4) : 2;
  });
  const strength = $derived(drawn ? tints(drawn.curves) : []);

  offerTable(
    'map',
    () => `${OUTPUT_NAMES[output]} over two inputs`,
    () =>
      drawn
        ? mapTable(drawn.map, drawn.curves, drawn.contract, drawn.output, isMoney(drawn.output) ? desk.factor : 1)
        : null,
  );
</script>

<div class="min-h-0 flex-1 overflow-auto pt-1">
  {#if problem}
    <p class="text-loss">{problem}</p>
  {:else if !drawn}
    <p class="text-soft">Pricing …</p>
  {:else}
    {@const { map, curves, contract } = drawn}
    <table class="dense h-full w-full table-fixed border-collapse" data-testid="map">
      <thead>
        <tr>
          <th class="head-cell w-28 text-left!"
            >{inputName(map.by, contract.model)} ↓ {inputName(map.along, contract.model)} →</th
          >
          {#each map.columns as column, j (j)}
            <th class="head-cell {column === map.columns[4] && map.along !== 'years' ? 'text-focus!' : ''}"
              >{inputText(map.along, column, desk.decimals)}</th
            >
          {/each}
        </tr>
      </thead>
      <tbody>
        {#each map.rows as row, i (i)}
          <tr>
            <th class="py-0.5 text-left text-[11px] font-normal whitespace-nowrap text-soft"
              >{inputText(map.by, row, desk.decimals)}</th
            >
            {#each map.columns as _, j (j)}
              <td
                class="cell"
                style="background: color-mix(in srgb, var(--implied) {Math.round(
                  45 * strength[i]![j]!,
                )}%, var(--panel))"
                >{figures.fixed(curves[i]![j]! * outputScale(drawn.output, desk.factor), decimals)}</td
              >
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>

<script lang="ts">
  import {
    expiryTerms,
    INPUTS,
    isPricedOn,
    OUTPUTS,
    writtenOn,
    type Contract,
    type Input,
    type Output,
  } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { useTheme, useWorkbench } from '$lib/state';
  import type { PricerDesk } from './desk.svelte';
  import { Latest } from '$lib/data/latest';
  import { pricerWorker } from './worker';
  import {
    readValues,
    sweepFigure,
    sweepLines,
    usualValues,
    writeValues,
    type SweepDrawing,
    type SweepPlan,
  } from './sweep';
  import SweepMap from './SweepMap.svelte';
  import { inputName, OUTPUT_NAMES } from './words';
  import { Toggles } from '$lib/ui';

  let { desk }: { desk: PricerDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();

  let along = $state<Input>('price');
  let output = $state<Output>('price');
  let by = $state<SweepPlan['by']>('years');
  /** What is typed as values of the second input; empty takes its default. */
  let typed = $state('');
  let isMap = $state(false);
  let problem = $state<string | null>(null);
  let drawn = $state.raw<{ contract: Contract; plan: SweepPlan; drawing: SweepDrawing } | null>(null);

  const hasValues = (curves: SweepPlan['by']): curves is Input => !['none', 'side', 'expiry'].includes(curves);
  const contract = $derived(desk.contract);
  const inputs = $derived(INPUTS.filter((input) => contract && isPricedOn(contract, input)));
  const usual = $derived(contract && hasValues(by) ? usualValues(contract, by) : []);
  const values = $derived(!hasValues(by) || typed.trim() === '' ? usual : readValues(typed, by));
  const expiries = $derived(
    (bench.snapshot.shown?.snapshot.slices ?? [])
      .map(({ expiry, fit }) => {
        const { yield: carryYield, years } = expiryTerms(
          writtenOn(bench.snapshot.shown!.snapshot, bench.snapshot.shown!.snapshot),
          fit,
        );
        return { expiry, years, forward: fit.forward, yield: carryYield };
      })
      .filter(({ years, forward }) => years > 0 && forward > 0)
      .slice(0, 7),
  );

  const asking = new Latest<NonNullable<typeof drawn>>(
    (found) => {
      drawn = found;
      problem = null;
    },
    (words) => (problem = words),
  );

  $effect(() => {
    if (!contract || !values || isMap) return;
    const plan: SweepPlan = { along, output, by, values, expiries };
    const [from, { factor }] = [contract, desk];
    const lines = sweepLines(from, plan);
    asking.ask(async () => {
      const asked = lines.map((line) => ({ contract: line.contract, request: line.request }));
      const curves = await pricerWorker().sweep(asked);
      return { contract: from, plan, drawing: { lines, curves, factor } };
    });
  });

  const figure = $derived(drawn ? sweepFigure(drawn.contract, drawn.plan, drawn.drawing, theme.tokens) : null);

  /** Theta over the lives of all expiries: how unevenly time is paid for. */
  function showLives(): void {
    [along, output, by, typed] = ['years', 'theta', 'expiry', ''];
  }
</script>

<div class="flex min-h-0 flex-1 flex-col px-3 pb-2">
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1 text-[12px]">
    <label class="flex items-center gap-1"
      ><span class="text-soft">{desk.side}</span>
      <select
        class="cursor-pointer rounded-[5px] border border-line bg-panel px-1 py-0.5"
        bind:value={output}
        aria-label="Output"
      >
        {#each OUTPUTS as name (name)}<option value={name}>{OUTPUT_NAMES[name]}</option>{/each}
      </select>
    </label>
    <label class="flex items-center gap-1"
      ><span class="text-soft">along</span>
      <select
        class="cursor-pointer rounded-[5px] border border-line bg-panel px-1 py-0.5"
        bind:value={along}
        aria-label="Along"
      >
        {#each inputs as input (input)}<option value={input}>{inputName(input, contract!.model)}</option>{/each}
      </select>
    </label>
    <label class="flex items-center gap-1"
      ><span class="text-soft">for several</span>
      <select
        class="cursor-pointer rounded-[5px] border border-line bg-panel px-1 py-0.5"
        value={by}
        onchange={(event) => {
          by = event.currentTarget.value as SweepPlan['by'];
          typed = '';
        }}
        aria-label="Curves"
      >
        <option value="none">– (one curve)</option>
        <option value="side">call and put</option>
        <option value="expiry">expiries</option>
        {#each inputs as input (input)}
          {#if input !== along}<option value={input}>{inputName(input, contract!.model)}</option>{/if}
        {/each}
      </select>
    </label>
    {#if hasValues(by)}
      <Toggles label="Drawn as" options={[false, true]} words={(one) => (one ? 'map' : 'curves')} bind:value={isMap} />
    {/if}
    {#if hasValues(by) && !isMap}
      <input
        class="figures w-44 rounded-[5px] border bg-page px-1.5 py-0.5 {values ? 'border-line' : 'border-loss'}"
        aria-label="Values of the curves"
        title="up to seven values, separated by commas"
        autocomplete="off"
        placeholder={writeValues(usual, by)}
        bind:value={typed}
      />
    {/if}
    <span class="flex-1"></span>
    <button class="cursor-pointer rounded-[5px] border border-line px-1.5 py-0.5 text-[11px]" onclick={showLives}
      >theta over the lives</button
    >
  </div>
  {#if isMap && hasValues(by) && by !== along}
    <SweepMap {desk} {along} {by} {output} />
  {:else if problem}
    <p class="m-auto text-loss">{problem}</p>
  {:else if figure}
    <Chart
      {figure}
      name="sweep"
      label="{OUTPUT_NAMES[output]} along {inputName(along, contract?.model ?? 'american')}"
    />
  {:else}
    <p class="m-auto text-soft">Pricing …</p>
  {/if}
  <p class="m-0 pt-1 text-[11px] text-soft">
    {isMap && hasValues(by) ? '' : 'The dotted line is now. '}Drawn on the fast setting of early exercise; trees with a
    hundred steps.
  </p>
</div>

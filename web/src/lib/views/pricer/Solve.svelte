<script lang="ts">
  import { DAYS_PER_YEAR, isOnForward, isPricedOn, type Input, type Solved, type SolveTarget } from '@umwelt/core';
  import type { PricerDesk } from './desk.svelte';
  import { Latest } from '$lib/data/latest';
  import { pricerWorker } from './worker';
  import { readNumber, type FieldName } from './terms';
  import { inputName, inputText } from './words';

  let { desk }: { desk: PricerDesk } = $props();

  const UNKNOWNS: readonly Input[] = ['vol', 'strike', 'price', 'rate', 'years', 'yield'];
  const TARGETS = { price: 'price', delta: 'delta', itm: 'ITM odds, %' } as const;

  let unknown = $state<Input>('vol');
  let output = $state<SolveTarget['output']>('price');
  let text = $state('');
  let answer = $state.raw<{ solved: Solved; input: Input } | null>(null);

  const contract = $derived(desk.contract);
  const unknowns = $derived(UNKNOWNS.filter((input) => contract && isPricedOn(contract, input)));
  const typed = $derived(readNumber(text));
  const target = $derived(output === 'itm' ? typed / 100 : typed);
  const hasTarget = $derived(text.trim() !== '' && Number.isFinite(target));

  const asking = new Latest<{ solved: Solved; input: Input }>(
    (found) => (answer = found),
    (problem) => (answer = { solved: { problem }, input: unknown }),
  );

  $effect(() => {
    if (!contract || !hasTarget) {
      answer = null;
      return;
    }
    const [from, input, wanted] = [contract, unknown, { output, value: target }];
    asking.ask(async () => ({ solved: await pricerWorker().solve(from, input, wanted), input }));
  });

  const FIELDS: Record<Input, (isForward: boolean) => FieldName> = {
    price: (isForward) => (isForward ? 'forward' : 'spot'),
    strike: () => 'strike',
    years: () => 'days',
    vol: () => 'vol',
    rate: () => 'rate',
    yield: () => 'yield',
  };

  /** Puts the answer into its field. */
  function take(value: number, input: Input): void {
    const { model, forward } = desk.terms!;
    const scale = input === 'years' ? DAYS_PER_YEAR : input === 'price' || input === 'strike' ? 1 : 100;
    const typedVol = input === 'vol' && model === 'bachelier' ? value / Math.abs(forward) : value;
    desk.type(FIELDS[input](isOnForward(model)), String(Number((typedVol * scale).toPrecision(12))));
  }
</script>

<section class="panel flex-none" aria-label="Solve">
  <div class="flex flex-wrap items-center gap-x-1.5 gap-y-1 px-3 py-2 text-[12px] whitespace-nowrap">
    <h2 class="text-[15px] font-bold">Solve</h2>
    <label class="flex items-center gap-1"
      ><span class="text-soft">for the</span>
      <select class="cursor-pointer rounded-[5px] border border-line bg-panel px-1 py-0.5" bind:value={unknown}>
        {#each unknowns as input (input)}<option value={input}>{inputName(input, contract!.model)}</option>{/each}
      </select>
    </label>
    <label class="flex items-center gap-1"
      ><span class="text-soft">of a {desk.side} whose</span>
      <select class="cursor-pointer rounded-[5px] border border-line bg-panel px-1 py-0.5" bind:value={output}>
        {#each Object.entries(TARGETS) as [name, label] (name)}<option value={name}>{label}</option>{/each}
      </select>
    </label>
    <label class="flex items-center gap-1"
      ><span class="text-soft">is</span>
      <input
        class="figures w-20 rounded-[5px] border border-line bg-page px-1.5 py-0.5 text-right"
        autocomplete="off"
        aria-label="Target"
        bind:value={text}
      />
    </label>
    <span class="flex min-w-0 flex-1 items-center justify-end gap-1.5 whitespace-normal" data-testid="solved">
      {#if text.trim() !== '' && !hasTarget}
        <span class="text-loss">must be a number</span>
      {:else if answer && 'value' in answer.solved}
        {@const { value } = answer.solved}
        {@const { input } = answer}
        <span class="figures font-bold"
          >{inputName(input, contract!.model)} {inputText(input, value, desk.decimals)}</span
        >
        <button class="cursor-pointer rounded-[5px] border border-line px-1.5 py-0.5" onclick={() => take(value, input)}
          >use it</button
        >
      {:else if answer && 'problem' in answer.solved}
        <span class="text-[11px] leading-tight text-loss">{answer.solved.problem}</span>
      {:else}
        <span class="text-soft">a target, please</span>
      {/if}
    </span>
  </div>
</section>

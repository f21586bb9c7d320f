<script lang="ts">
  import { MEASURE_KEYS, type FinderMeasure } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useParams } from '$lib/state';
  import { ChoiceMenu } from '$lib/ui';
  import Slider from '$lib/ui/Slider.svelte';
  import { titleOf, TOLD } from './measures';
  import { MOST_WEIGHT, MOST_WEIGHTS, PARAMS } from './params';

  /** Weights of the ranks that make the score. */
  const params = useParams(PARAMS);
  const total = $derived(params.weights.reduce((sum, { weight }) => sum + Math.abs(weight), 0));

  function set(measure: FinderMeasure, size: number): void {
    const next = params.weights.map((one) =>
      one.measure === measure ? { ...one, weight: one.weight < 0 ? -size : size } : one,
    );
    // Of nothing but nothing there is no order.
    if (next.some(({ weight }) => weight !== 0)) params.weights = next;
  }
  const turn = (measure: FinderMeasure) =>
    (params.weights = params.weights.map((one) => (one.measure === measure ? { ...one, weight: -one.weight } : one)));

  function choose(key: string, isChosen: boolean): void {
    const measure = key as FinderMeasure;
    if (isChosen && params.weights.length < MOST_WEIGHTS) params.weights = [...params.weights, { measure, weight: 10 }];
    else if (!isChosen && params.weights.length > 1)
      params.weights = params.weights.filter((one) => one.measure !== measure);
  }
</script>

<div class="mt-2 flex items-baseline gap-2 text-[12px]">
  <h3 class="font-bold">Weights</h3>
  <span class="flex-1 text-soft">of ranks, sum {figures.fixed(total, 0)}</span>
  <ChoiceMenu
    label="measures"
    options={MEASURE_KEYS.map((key) => ({ value: key, word: TOLD[key].label, title: titleOf(key) }))}
    chosen={params.weights.map(({ measure }) => measure)}
    onchange={choose}
  />
</div>
{#each params.weights as { measure, weight } (measure)}
  <div class="flex items-center gap-2 text-[12px]" data-weight={measure} title={titleOf(measure)}>
    <button
      class="w-[9.5em] cursor-pointer truncate text-left hover:underline"
      title="{titleOf(measure)}: {weight < 0 ? 'low' : 'high'} is preferred; the other way by a click"
      aria-label="{TOLD[measure].label}, {weight < 0 ? 'low' : 'high'} is preferred"
      onclick={() => turn(measure)}>{TOLD[measure].label}{weight < 0 ? ', low' : ''}</button
    >
    <Slider
      label="Weight of {TOLD[measure].label}"
      min={0}
      max={MOST_WEIGHT}
      step={1}
      class="flex-1"
      bind:value={() => Math.abs(weight), (size) => set(measure, size)}
    />
    <b class="figures w-7 text-right">{figures.fixed(Math.abs(weight), 0)}</b>
  </div>
{/each}

<script lang="ts">
  import { MEASURE_KEYS, type FinderMeasure } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useParams } from '$lib/state';
  import { ChoiceMenu } from '$lib/ui';
  import RangeSlider from '$lib/ui/RangeSlider.svelte';
  import { limitOf, limitsOn, withLimits } from './asked';
  import type { FinderDesk } from './desk.svelte';
  import { stepOf, titleOf, TOLD, written } from './measures';
  import { MOST_CONDITIONS, PARAMS } from './params';

  /** Limits as ranges over what there is; formulas beneath. */
  let { desk }: { desk: FinderDesk } = $props();

  const params = useParams(PARAMS);
  let typed = $state('');

  interface Dragged {
    measure: FinderMeasure;
    min: number;
    max: number;
    step: number;
    counts: readonly number[];
    from: number;
    to: number;
    words: string;
    leftOut: number;
  }

  const rounded = (value: number, step: number, round: (value: number) => number) =>
    Number((round(value / step) * step).toPrecision(12));

  /** Of a measure that is not known of anything there is nothing to drag. */
  const limits: readonly Dragged[] = $derived.by(() =>
    params.limited.flatMap((measure): Dragged[] => {
      const told = desk.shown?.histograms[measure];
      if (!told) return [];
      const step = stepOf(measure, told.from, told.to);
      const { least, most } = limitsOn(params.conditions, measure);
      const min = Math.min(rounded(told.from, step, Math.floor), least ?? Infinity, most ?? Infinity);
      const max = Math.max(rounded(told.to, step, Math.ceil), min + step, least ?? -Infinity, most ?? -Infinity);
      const write = (value: number) => written(measure, value);
      const words =
        least === undefined && most === undefined
          ? 'all'
          : least === undefined
            ? `≤ ${write(most!)}`
            : most === undefined
              ? `≥ ${write(least)}`
              : `${write(least)} … ${write(most)}`;
      const leftOut = params.conditions.reduce(
        (sum, condition, at) => sum + (limitOf(condition)?.measure === measure ? (desk.shown?.leftOut[at] ?? 0) : 0),
        0,
      );
      return [
        { ...{ measure, min, max, step, counts: told.counts, words, leftOut }, from: least ?? min, to: most ?? max },
      ];
    }),
  );

  function drag({ measure, min, max, step }: Dragged, [least, most]: [number, number]): void {
    const near = step / 2;
    params.conditions = withLimits(params.conditions, measure, {
      ...(least > min + near && { least: Number(least.toPrecision(10)) }),
      ...(most < max - near && { most: Number(most.toPrecision(10)) }),
    }).slice(0, MOST_CONDITIONS);
  }

  const isShut = ({ measure }: Dragged) => {
    const { least, most } = limitsOn(params.conditions, measure);
    return least !== undefined && most !== undefined && least > most;
  };

  /** Conditions that no slider stands for. */
  const formulas = $derived(
    params.conditions.flatMap((source, at) => {
      const limit = limitOf(source);
      return limit && params.limited.includes(limit.measure) ? [] : [{ source, at }];
    }),
  );

  function add(): void {
    const source = typed.trim();
    if (source === '' || params.conditions.includes(source) || params.conditions.length >= MOST_CONDITIONS) return;
    params.conditions = [...params.conditions, source];
    typed = '';
  }
  const without = (at: number) => (params.conditions = params.conditions.filter((_, i) => i !== at));

  function choose(measure: string, isChosen: boolean): void {
    const key = measure as FinderMeasure;
    params.limited = isChosen ? [...params.limited, key] : params.limited.filter((one) => one !== key);
  }
</script>

<div class="flex items-baseline gap-2 text-[12px]">
  <h3 class="font-bold">Limits</h3>
  <span class="flex-1 text-soft">left out alone</span>
  <ChoiceMenu
    label="measures"
    options={MEASURE_KEYS.map((key) => ({ value: key, word: TOLD[key].label, title: titleOf(key) }))}
    chosen={params.limited}
    onchange={choose}
  />
</div>
{#each limits as limit (limit.measure)}
  {@const { measure, min, max, step, counts, from, to, words, leftOut } = limit}
  <div class="mt-1 contain-content" data-limit={measure}>
    <div class="flex items-baseline gap-1.5 text-[12px]" title={titleOf(measure)}>
      <span class="flex-1 truncate">{TOLD[measure].label}</span>
      <b class="figures">{words}</b>
      <span class="figures w-14 text-right text-soft">{leftOut > 0 ? `−${figures.count(leftOut)}` : ''}</span>
    </div>
    {#if isShut(limit)}<p class="m-0 text-[11px] text-loss" role="alert">The least is over the most.</p>{/if}
    <RangeSlider
      label={TOLD[measure].label}
      {min}
      {max}
      {step}
      {counts}
      {from}
      {to}
      words={(one) => written(measure, one)}
      onchange={(next) => drag(limit, next)}
    />
  </div>
{/each}
<ul class="m-0 mt-1 list-none p-0 text-[11.5px]" aria-label="Conditions">
  {#each formulas as { source, at } (source)}
    {@const fault = desk.faults.get(at)}
    <li class="border-b border-line py-0.5">
      <span class="flex items-baseline gap-1.5">
        <code class="figures min-w-0 flex-1 text-[11px]! wrap-anywhere whitespace-normal!">{source}</code>
        <span class="figures text-soft"
          >{desk.shown?.leftOut[at] ? `−${figures.count(desk.shown.leftOut[at]!)}` : ''}</span
        >
        <button
          class="cursor-pointer text-soft hover:text-ink"
          aria-label="Without {source}"
          onclick={() => without(at)}>×</button
        >
      </span>
      {#if fault}<span class="text-loss" role="alert">{fault}</span>{/if}
    </li>
  {/each}
</ul>
<form
  class="mt-1 flex gap-1"
  onsubmit={(event) => {
    event.preventDefault();
    add();
  }}
>
  <input
    class="figures min-w-0 flex-1 rounded-[5px] border border-line bg-panel px-1.5 text-[11px]!"
    aria-label="Condition"
    title="measures of a candidate, and of its underlying as in the Universe"
    placeholder="rank(iv30, 252) > 70%"
    maxlength="500"
    spellcheck="false"
    autocomplete="off"
    bind:value={typed}
    onkeydown={(event) => event.stopPropagation()}
  />
  <button class="btn btn-xs" disabled={typed.trim() === ''}>add</button>
</form>

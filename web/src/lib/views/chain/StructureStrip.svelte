<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { figures } from '$lib/formats';
  import { intoBook } from '$lib/book';
  import { keepInHand } from '$lib/kept';
  import { useWorkbench, problemOf } from '$lib/state';
  import type { ChainDesk } from './desk.svelte';
  import { legWords } from '$lib/structure';
  import { Worked } from '$lib/ui';

  let { desk, onkept }: { desk: ChainDesk; onkept: () => void } = $props();

  const bench = useWorkbench();
  const decimals = $derived(bench.market.decimals);
  const structure = $derived(desk.structure);
  const times = $derived(desk.times);
  let problem = $state<string | null>(null);

  const UNLIMITED = '∞';
  const money = (value: number) => (value === Infinity ? UNLIMITED : figures.fixed(value, decimals));

  async function keep(): Promise<void> {
    try {
      await keepInHand(bench);
      problem = null;
      onkept();
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

{#snippet figure(name: string, value: string, at: string, title?: string)}
  <span class="flex-none whitespace-nowrap" {title}
    ><span class="text-soft">{name}</span>
    <b class="figures"><Worked open={() => (bench.dialogs.work = desk.structureWork(at))}>{value}</Worked></b></span
  >
{/snippet}

<div
  class="flex flex-none flex-wrap items-center gap-x-2.5 gap-y-0.5 border-t border-line bg-band px-3 py-1 text-[12px]"
  role="group"
  aria-label="Picked structure"
  data-testid="structure"
>
  {#each bench.context.legs as leg (legWords(leg, ''))}
    <span class="figures flex flex-none items-center gap-1 rounded border border-line bg-panel px-1.5">
      {legWords(leg, bench.snapshot.shown?.snapshot.asof.slice(0, 4))}
      <button
        class="cursor-pointer text-soft hover:text-ink"
        aria-label="Take {legWords(leg)} out"
        onclick={() => (bench.context.legs = bench.context.legs.filter((other) => other !== leg))}
        ><X size={11} /></button
      >
    </span>
  {/each}
  {#if bench.context.held !== 0}
    <span
      class="figures flex flex-none items-center gap-1 rounded border border-line bg-panel px-1.5"
      title="not in what stands here: Structure counts it"
    >
      {figures.signed(bench.context.held, 0)}
      {bench.context.symbol} itself
      <button
        class="cursor-pointer text-soft hover:text-ink"
        aria-label="Take the underlying out"
        onclick={() => (bench.context.held = 0)}><X size={11} /></button
      >
    </span>
  {/if}
  {#if typeof structure === 'string'}
    <span class="text-loss" role="alert">{structure}</span>
  {:else if structure}
    {@render figure(
      'value',
      figures.fixed(structure.value, decimals),
      'value',
      `theory on the ${bench.snapshot.shown?.basis} basis`,
    )}
    {@render figure(
      'costs',
      `${figures.fixed(structure.worst, decimals)} / ${figures.fixed(structure.mid, decimals)} / ${figures.fixed(structure.best, decimals)}`,
      'mid',
      'worst, mid and best: positive where money is paid, for a unit of the underlying',
    )}
    {@render figure('delta', figures.fixed(structure.delta * times, 3), 'delta')}
    {@render figure(
      'gamma',
      figures.fixed(structure.gamma * times, figures.gammaDecimals(bench.snapshot.shown?.snapshot.price)),
      'gamma',
    )}
    {@render figure('theta', figures.fixed(structure.theta * times, decimals + 1), 'theta')}
    {@render figure('vega', figures.fixed(structure.vega * times, decimals + 1), 'vega')}
    {@render figure('skew', figures.signed(structure.skew * times, 3), 'skew', 'for a point of 25-delta risk reversal')}
    {@render figure(
      'curvature',
      figures.signed(structure.curvature * times, 3),
      'curvature',
      'for a point of 25-delta butterfly',
    )}
    {#if structure.payoff}
      {@render figure('gains', money(structure.payoff.maxProfit), 'even', 'at most, when it expires, at its mid')}
      {@render figure('loses', money(structure.payoff.maxLoss), 'even', 'at most, when it expires, at its mid')}
      {@render figure(
        'even at',
        structure.payoff.breakEvens.map((price) => figures.fixed(price, decimals)).join(' · ') || '–',
        'even',
      )}
      {@render figure(
        'odds',
        figures.percent(structure.odds.gain),
        'gain',
        `to gain, on the ${bench.snapshot.shown?.basis} basis`,
      )}
    {/if}
  {/if}
  {#if problem}<span class="text-loss" role="alert">{problem}</span>{/if}
  <span class="flex-1"></span>
  <span class="flex flex-none gap-1">
    {#if structure && typeof structure !== 'string'}
      <a
        class="btn btn-xs"
        href="/structure{bench.address.query}"
        title="what it can gain and lose, when, and how likely">profile</a
      >
      <button class="btn btn-xs" onclick={() => void intoBook(bench)} title="as a position, at the quotes of the moment"
        >into the book</button
      >
      <button class="btn btn-xs" onclick={keep} title="into the list of kept structures, which all share">keep</button>
    {/if}
    <button class="btn btn-xs" onclick={() => Object.assign(bench.context, { legs: [], held: 0 })}>clear</button>
  </span>
</div>

<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import Worked from '$lib/working/Worked.svelte';
  import type { ChainDesk } from './desk.svelte';
  import { keepPriced } from './priced';
  import { legWords } from './spread';

  let { desk, onkept }: { desk: ChainDesk; onkept: () => void } = $props();

  const bench = useWorkbench();
  const decimals = $derived(bench.decimals);
  const spread = $derived(desk.spread);
  const times = $derived(desk.times);
  let problem = $state<string | null>(null);

  const UNLIMITED = '∞';
  const money = (value: number) => (value === Infinity ? UNLIMITED : figures.fixed(value, decimals));

  async function keep(): Promise<void> {
    const { symbol, legs, asof } = bench.context;
    if (!symbol) return;
    try {
      await keepPriced({ symbol, legs: legs.map((leg) => ({ ...leg })), ...(asof && { asof }) });
      problem = null;
      onkept();
    } catch (error) {
      problem = error instanceof Error ? error.message : String(error);
    }
  }
</script>

{#snippet figure(name: string, value: string, at: string, title?: string)}
  <span class="flex-none whitespace-nowrap" {title}
    ><span class="text-soft">{name}</span>
    <b class="figures"><Worked open={() => (bench.work = desk.spreadWork(at))}>{value}</Worked></b></span
  >
{/snippet}

<div
  class="flex flex-none flex-wrap items-center gap-x-3 gap-y-0.5 border-t border-line bg-band px-3 py-1 text-[12px]"
  role="group"
  aria-label="Picked spread"
  data-testid="spread"
>
  {#each bench.context.legs as leg (leg.expiry + leg.strike + leg.side)}
    <span class="figures flex flex-none items-center gap-1 rounded border border-line bg-panel px-1.5">
      {legWords(leg, bench.shown?.snapshot.asof.slice(0, 4))}
      <button
        class="cursor-pointer text-soft hover:text-ink"
        aria-label="Take {legWords(leg)} out"
        onclick={() => (bench.context.legs = bench.context.legs.filter((other) => other !== leg))}
        ><X size={11} /></button
      >
    </span>
  {/each}
  {#if typeof spread === 'string'}
    <span class="text-loss" role="alert">{spread}</span>
  {:else if spread}
    {@render figure(
      'value',
      figures.fixed(spread.value, decimals),
      'value',
      `theory on the ${bench.shown?.basis} basis`,
    )}
    {@render figure(
      'costs',
      `${figures.fixed(spread.worst, decimals)} / ${figures.fixed(spread.mid, decimals)} / ${figures.fixed(spread.best, decimals)}`,
      'mid',
      'worst, mid and best: positive where money is paid, for a unit of the underlying',
    )}
    {@render figure('delta', figures.fixed(spread.delta * times, 3), 'delta')}
    {@render figure(
      'gamma',
      figures.fixed(spread.gamma * times, figures.gammaDecimals(bench.shown?.snapshot.price)),
      'gamma',
    )}
    {@render figure('theta', figures.fixed(spread.theta * times, decimals + 1), 'theta')}
    {@render figure('vega', figures.fixed(spread.vega * times, decimals + 1), 'vega')}
    {@render figure('skew', figures.signed(spread.skew * times, 3), 'skew', 'for a point of 25-delta risk reversal')}
    {@render figure(
      'bend',
      figures.signed(spread.curvature * times, 3),
      'curvature',
      'for a point of 25-delta butterfly',
    )}
    {#if spread.payoff}
      {@render figure('gains', money(spread.payoff.maxProfit), 'even', 'at most, when it expires, at its mid')}
      {@render figure('loses', money(spread.payoff.maxLoss), 'even', 'at most, when it expires, at its mid')}
      {@render figure(
        'even at',
        spread.payoff.breakEvens.map((price) => figures.fixed(price, decimals)).join(' · ') || '–',
        'even',
      )}
      {@render figure('odds', figures.percent(spread.odds.gain), 'gain', `to gain, on the ${bench.shown?.basis} basis`)}
    {/if}
  {/if}
  {#if problem}<span class="text-loss" role="alert">{problem}</span>{/if}
  <span class="flex-1"></span>
  {#if spread && typeof spread !== 'string'}
    <button class="btn btn-xs" onclick={keep} title="into the list of priced spreads, which all share">keep</button>
  {/if}
  <button class="btn btn-xs" onclick={() => (bench.context.legs = [])}>clear</button>
</div>

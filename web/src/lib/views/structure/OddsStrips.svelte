<script lang="ts">
  import { figures, zoneWords } from '$lib/formats';
  import { useParams, useWorkbench } from '$lib/state';
  import { axisOf } from './axis';
  import type { Evaluated, StructureDesk } from './desk.svelte';
  import { PARAMS } from './params';

  /** Odds of the zones between break-evens, a strip for each basis, under the axis of the profile; over them the past as dots. */
  let { desk, answer }: { desk: StructureDesk; answer: Evaluated } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  let width = $state(0);

  const { toX } = $derived(axisOf(answer.x, width));
  /** The curve, the past and the basis in use; on wish every basis. */
  const isUsual = (basis: string) => basis === 'curve' || basis === 'past' || basis === bench.context.basis;
  const strips = $derived(answer.evaluation.odds.filter(({ basis }) => params.hasAllStrips || isUsual(basis)));
  const NARROW = 34;
  const gains = $derived(answer.evaluation.profile.gains);
  const isGain = (from: number, to: number) => gains.some((one) => one.from <= from && one.to >= to);
  const money = (value: number) => figures.signed(value * desk.times, desk.digits);
</script>

<div class="relative flex flex-none flex-col gap-px" bind:clientWidth={width} data-testid="structure-strips">
  {#if answer.evaluation.dots.length > 0}
    <div class="relative h-[16px]" role="group" aria-label="Twenty past moves">
      <span class="absolute left-1 text-[10.5px] leading-[16px] text-soft">1 in 20</span>
      {#each answer.evaluation.dots as dot, i (i)}
        <span
          class="absolute top-[4px] size-[8px] -translate-x-1/2 rounded-full border-[1.5px] {dot.profit > 0
            ? 'border-gain bg-gain'
            : 'border-loss'}"
          style="left: {toX(dot.price)}px"
          title="one in twenty past moves of that length ends near {figures.fixed(dot.price, decimals)}: {money(
            dot.profit,
          )}"
        ></span>
      {/each}
    </div>
  {/if}
  <button
    class="absolute top-0 right-1 z-10 cursor-pointer bg-panel px-1 text-[10.5px] leading-[16px] text-soft hover:text-ink"
    aria-pressed={params.hasAllStrips}
    title="a strip for every basis, or for the curve, the past and the basis in use"
    onclick={() => (params.hasAllStrips = !params.hasAllStrips)}
    >{params.hasAllStrips ? 'fewer bases' : 'all bases'}</button
  >
  {#each strips as strip (strip.basis)}
    <div class="relative h-[17px]" role="group" aria-label="Odds by {strip.basis}">
      <span class="absolute left-1 text-[10.5px] leading-[17px] text-soft">{strip.basis}</span>
      {#each strip.zones as zone (zone.from)}
        {@const [from, to] = [zone.from ?? 0, zone.to ?? Infinity]}
        {@const [left, right] = [toX(from), toX(to)]}
        <span
          class="figures absolute h-[17px] overflow-hidden border-l border-panel text-center text-[10.5px]! leading-[17px] {isGain(
            from,
            to,
          )
            ? 'bg-band font-semibold'
            : 'bg-page'}"
          style="left: {left}px; width: {Math.max(0, right - left)}px"
          title="{zoneWords(zone, decimals)}: {figures.percent(zone.probability, 2)} by {strip.basis}"
          >{right - left >= NARROW ? figures.percent(zone.probability) : ''}</span
        >
      {/each}
    </div>
  {/each}
</div>

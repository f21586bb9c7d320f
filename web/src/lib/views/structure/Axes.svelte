<script lang="ts">
  import { DAYS_PER_YEAR } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useParams, useWorkbench } from '$lib/state';
  import { NumberField, Popover } from '$lib/ui';
  import type { Evaluated, StructureDesk } from './desk.svelte';
  import { MOST_PRICE, PARAMS } from './params';

  /** Ends of the axis of prices, and the dates between today and the first expiry that have a curve. */
  let { desk, answer }: { desk: StructureDesk; answer: Evaluated } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const lastDay = $derived(Math.max(1, Math.ceil(desk.horizonDays) - 1));
  const own = $derived(params.axisFrom > 0 || params.axisTo > 0 || params.dates.length > 0);
  /** The dates that are drawn, in days from the moment in view. */
  const days = $derived(desk.dates.slice(1, -1).map((years) => years * DAYS_PER_YEAR));

  function setDay(at: number, day: number): void {
    const others = days.map((one) => Math.round(one));
    params.dates = others.map((one, i) => (i === at ? Math.round(day) : one)).sort((a, b) => a - b);
  }

  function reset(): void {
    Object.assign(params, { axisFrom: 0, axisTo: 0, dates: [] });
  }
</script>

<Popover label="Axis and dates">
  {#snippet trigger()}{own ? 'axis: own' : 'axis …'}{/snippet}
  <div class="grid grid-cols-[auto_auto] items-center gap-x-3 gap-y-1">
    <span>prices from</span>
    <NumberField
      label="Axis from"
      bind:value={params.axisFrom}
      min={0}
      max={MOST_PRICE}
      none={0}
      placeholder={figures.fixed(answer.x[0], decimals)}
      class="w-24"
    />
    <span>to</span>
    <NumberField
      label="Axis to"
      bind:value={params.axisTo}
      min={0}
      max={MOST_PRICE}
      none={0}
      placeholder={figures.fixed(answer.x.at(-1), decimals)}
      class="w-24"
    />
    {#each days as day, at (at)}
      <span>{at === 0 ? 'curves in days' : 'and in'}</span>
      <NumberField
        label="Days to the {at === 0 ? 'first' : 'second'} date"
        bind:value={() => Math.round(day), (to) => setDay(at, to)}
        min={1}
        max={lastDay}
        step={1}
        class="w-24"
      />
    {/each}
  </div>
  <button class="btn mt-2 btn-xs" disabled={!own} onclick={reset}>as it comes</button>
</Popover>

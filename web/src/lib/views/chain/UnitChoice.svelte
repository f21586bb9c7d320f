<script lang="ts">
  import { figures } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { PARAMS, UNITS } from './params';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);
  const titles = $derived({
    unit: 'Greeks and money for a unit of the underlying',
    contract: `for one contract of ${figures.count(multiplier)}`,
    position: 'for so many contracts',
  });
</script>

<div class="toggle-group" role="group" aria-label="Greeks and money per">
  {#each UNITS as units (units)}
    <button aria-pressed={params.units === units} title={titles[units]} onclick={() => (params.units = units)}
      >{units === 'position' ? '× n' : units}</button
    >
  {/each}
</div>
{#if params.units === 'position'}
  <input
    class="figures w-14 rounded-[5px] border border-line bg-panel px-1 text-right text-[11px]!"
    type="number"
    step="1"
    aria-label="Contracts"
    value={params.times}
    onkeydown={(event) => event.stopPropagation()}
    onchange={(event) => {
      const times = Math.round(event.currentTarget.valueAsNumber);
      if (Number.isFinite(times) && Math.abs(times) <= 1e6) params.times = times;
    }}
  />
{/if}

<script lang="ts">
  import { figures } from '$lib/formats';
  import { UNITS, useWorkbench } from '$lib/state';

  const bench = useWorkbench();
  const multiplier = $derived(bench.underlying?.multiplier ?? 1);
  const titles = $derived({
    unit: 'Greeks and money for a unit of the underlying',
    contract: `for one contract of ${figures.count(multiplier)}`,
    position: 'for so many contracts',
  });
</script>

<div class="toggle-group" role="group" aria-label="Greeks and money per">
  {#each UNITS as units (units)}
    <button
      aria-pressed={bench.context.units === units}
      title={titles[units]}
      onclick={() => (bench.context.units = units)}>{units === 'position' ? '× n' : units}</button
    >
  {/each}
</div>
{#if bench.context.units === 'position'}
  <input
    class="figures w-14 rounded-[5px] border border-line bg-panel px-1 text-right text-[11px]!"
    type="number"
    step="1"
    aria-label="Contracts"
    value={bench.context.times}
    onkeydown={(event) => event.stopPropagation()}
    onchange={(event) => {
      const times = Math.round(event.currentTarget.valueAsNumber);
      if (Number.isFinite(times) && Math.abs(times) <= 1e6) bench.context.times = times;
    }}
  />
{/if}

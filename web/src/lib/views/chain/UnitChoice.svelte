<script lang="ts">
  import { figures } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { PARAMS, UNITS } from './params';
  import { Toggles } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);
  const titles = $derived({
    unit: 'Greeks and money for a unit of the underlying',
    contract: `for one contract of ${figures.count(multiplier)}`,
    position: 'for so many contracts',
  });
</script>

<Toggles
  label="Greeks and money per"
  options={UNITS}
  words={(units) => (units === 'position' ? '× n' : units)}
  titles={(units) => titles[units]}
  bind:value={params.units}
/>
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

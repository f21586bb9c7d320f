<script lang="ts">
  import { STRIKE_RANGES, useWorkbench, type StrikeRange } from '$lib/state';

  const bench = useWorkbench();
  const NAMES: Record<StrikeRange, string> = {
    all: 'all strikes',
    strikes: '± strikes',
    percent: '± %',
    deviations: '± deviations',
  };
  const USUAL: Record<StrikeRange, number> = { all: 20, strikes: 10, percent: 10, deviations: 2 };

  function choose(range: StrikeRange): void {
    bench.context.strikeRange = range;
    bench.context.rangeSize = USUAL[range];
  }
  function resize(size: number): void {
    const { strikeRange } = bench.context;
    const whole = strikeRange === 'strikes' ? Math.round(size) : size;
    if (whole > 0 && whole <= 1000) bench.context.rangeSize = whole;
  }
</script>

<select
  class="choice"
  aria-label="Range of strikes"
  value={bench.context.strikeRange}
  onchange={(event) => choose(event.currentTarget.value as StrikeRange)}
>
  {#each STRIKE_RANGES as range (range)}<option value={range}>{NAMES[range]}</option>{/each}
</select>
{#if bench.context.strikeRange !== 'all'}
  <input
    class="figures w-12 rounded-[5px] border border-line bg-panel px-1 text-right text-[11px]!"
    type="number"
    min="0.1"
    step={bench.context.strikeRange === 'strikes' ? 1 : 'any'}
    aria-label="Size of the range"
    value={bench.context.rangeSize}
    onkeydown={(event) => event.stopPropagation()}
    onchange={(event) => resize(event.currentTarget.valueAsNumber)}
  />
{/if}

<script lang="ts">
  import { useParams } from '$lib/state';
  import { PARAMS, STRIKE_RANGES, type StrikeRange } from './params';

  const params = useParams(PARAMS);
  const NAMES: Record<StrikeRange, string> = {
    all: 'all strikes',
    strikes: '± strikes',
    percent: '± %',
    deviations: '± deviations',
  };
  const USUAL: Record<StrikeRange, number> = { all: 20, strikes: 10, percent: 10, deviations: 2 };

  function choose(range: StrikeRange): void {
    params.strikeRange = range;
    params.rangeSize = USUAL[range];
  }
  function resize(size: number): void {
    const { strikeRange } = params;
    const whole = strikeRange === 'strikes' ? Math.round(size) : size;
    if (whole > 0 && whole <= 1000) params.rangeSize = whole;
  }
</script>

<select
  class="choice"
  aria-label="Range of strikes"
  value={params.strikeRange}
  onchange={(event) => choose(event.currentTarget.value as StrikeRange)}
>
  {#each STRIKE_RANGES as range (range)}<option value={range}>{NAMES[range]}</option>{/each}
</select>
{#if params.strikeRange !== 'all'}
  <input
    class="figures w-12 rounded-[5px] border border-line bg-panel px-1 text-right text-[11px]!"
    type="number"
    min="0.1"
    step={params.strikeRange === 'strikes' ? 1 : 'any'}
    aria-label="Size of the range"
    value={params.rangeSize}
    onkeydown={(event) => event.stopPropagation()}
    onchange={(event) => resize(event.currentTarget.valueAsNumber)}
  />
{/if}

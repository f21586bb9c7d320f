<script lang="ts">
  import { MEASURE_KEYS, type FinderMeasure } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { useParams, useTheme } from '$lib/state';
  import { limitsOn, withLimits } from './asked';
  import { scatterFigure } from './charts/scatter';
  import type { FinderDesk } from './desk.svelte';
  import { TOLD } from './measures';
  import { PARAMS } from './params';
  import { keyOf } from './rows';

  /** All that was made by two measures; what is drawn around becomes the limits of both. */
  let { desk }: { desk: FinderDesk } = $props();

  const params = useParams(PARAMS);
  const theme = useTheme();
  const scatter = $derived(desk.shown?.scatter ?? null);
  const figure = $derived(
    scatter &&
      scatterFigure({
        ...{ scatter, rows: desk.rows, row: desk.row },
        ...{ x: params.scatterX, y: params.scatterY, tokens: theme.tokens },
      }),
  );

  const scaleOf = (measure: FinderMeasure) => (TOLD[measure].as === 'percent' || TOLD[measure].as === 'vol' ? 100 : 1);
  const DIGITS = 4;

  function limit(keep: readonly string[], measure: FinderMeasure, [from, to]: readonly [number, number]): string[] {
    const at = (value: number) => Number((value / scaleOf(measure)).toPrecision(DIGITS));
    return withLimits(keep, measure, { least: at(from), most: at(to) });
  }

  function brush(x: readonly [number, number], y: readonly [number, number]): void {
    const { scatterX, scatterY } = params;
    params.conditions = limit(limit(params.conditions, scatterX, x), scatterY, y);
    params.limited = [...new Set([...params.limited, scatterX, scatterY])];
  }

  const isLimited = $derived(
    [params.scatterX, params.scatterY].some((measure) => Object.keys(limitsOn(params.conditions, measure)).length > 0),
  );
  const free = () =>
    (params.conditions = withLimits(withLimits(params.conditions, params.scatterX, {}), params.scatterY, {}));
</script>

<div class="flex flex-none flex-wrap items-center gap-2 px-3 pt-1 text-[12px]">
  {#each [['scatterX', 'across'], ['scatterY', 'up']] as const as [key, words] (key)}
    <label class="flex items-center gap-1 text-soft"
      >{words}
      <select class="choice max-w-40" aria-label="Measure {words}" bind:value={params[key]}>
        {#each MEASURE_KEYS as measure (measure)}<option value={measure}>{TOLD[measure].label}</option>{/each}
      </select></label
    >
  {/each}
  <span class="flex-1 text-soft">drawing around some limits both measures to them</span>
  {#if isLimited}<button class="btn btn-xs" onclick={free}>without these limits</button>{/if}
</div>
<div class="flex min-h-0 flex-1 flex-col" data-testid="finder-scatter">
  {#if figure}
    <Chart
      {figure}
      bundle="cartesian"
      name="finder-scatter"
      label="Candidates by {TOLD[params.scatterX].label} and {TOLD[params.scatterY].label}"
      onbrush={brush}
      onchoose={(mark) => {
        const row = desk.rows.find((one) => keyOf(one) === mark[0]);
        if (row) desk.choose(row);
      }}
    />
  {:else}<p class="m-auto text-soft">
      {desk.isLooking ? 'Looking …' : 'Nothing was made.'}
    </p>{/if}
</div>

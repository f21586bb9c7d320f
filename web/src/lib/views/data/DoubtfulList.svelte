<script lang="ts">
  import { doubtfulMeasures, lastOfSessions } from '@umwelt/core';
  import { shortDay } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { doubtfulWords, MEASURE_LABELS } from './doubtful';

  /** Measures of the whole past that cannot be meant; a click goes there. */
  const bench = useWorkbench();
  const ends = $derived(
    lastOfSessions(bench.market.calendar, bench.market.current?.snapshots ?? [], ({ asof }) => Date.parse(asof)),
  );
  const doubtful = $derived(doubtfulMeasures(ends).reverse());
</script>

{#if doubtful.length > 0}
  <h3 class="px-3 pt-2 text-[13px] font-bold">Doubtful</h3>
  <ul class="m-0 list-none px-3 pb-2" data-testid="doubtful">
    {#each doubtful as one (`${one.at} ${one.measure}`)}
      {@const { asof } = ends[one.at]!}
      <li class="border-b border-line/60 py-0.5">
        <button
          class="cursor-pointer text-left hover:underline"
          title="Go there"
          onclick={() => (bench.context.asof = asof)}
          ><b class="figures">{shortDay(asof.slice(0, 10))}</b>
          {MEASURE_LABELS[one.measure]}
          <span class="text-soft">{doubtfulWords(one)}</span></button
        >
      </li>
    {/each}
  </ul>
{/if}

<script lang="ts">
  import { expiryName } from '@umwelt/core';
  import { depthColor } from '$lib/charts/depth';
  import { borrowedWords, figures, shortExpiry } from '$lib/formats';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import type { ChainDesk } from './desk.svelte';
  import { PARAMS } from './params';
  import { Toggles } from '$lib/ui';

  let { desk }: { desk: ChainDesk } = $props();
  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const slices = $derived(bench.snapshot.shown?.snapshot.slices ?? []);
  const year = $derived(bench.snapshot.shown?.snapshot.asof.slice(0, 4));
  const isAllOpen = $derived(slices.every((one) => desk.isOpen(one)));
</script>

<div class="flex flex-none items-center gap-2 border-b border-line px-3 pb-1.5 text-[11px]">
  <div
    class="flex min-w-0 flex-1 [scrollbar-width:none] gap-1 overflow-x-auto"
    role="group"
    aria-label="Expiries unfolded"
  >
    {#each slices as one (expiryName(one))}
      {@const { fit } = one}
      <button
        class="flex flex-none cursor-pointer items-center gap-1 rounded-[5px] border px-1.5 py-px whitespace-nowrap {desk.isOpen(
          one,
        )
          ? 'border-ink bg-band font-semibold'
          : 'border-line text-soft hover:text-ink'}"
        aria-pressed={desk.isOpen(one)}
        title="{figures.days(fit.days)} days, ATM {figures.vol(fit.atmVol)}, move {figures.plusMinus(
          fit.straddleMove,
          bench.market.decimals,
        )}"
        onclick={() => desk.toggle(one)}
      >
        <span class="size-2 flex-none rounded-[2px]" style="background: {depthColor(fit.days, theme.tokens)}"></span>
        {shortExpiry(one, year)}{#if fit.borrowed}<span class="text-implied" title={borrowedWords(fit.borrowed)}>⋯</span
          >{/if}
      </button>
    {/each}
  </div>
  <Toggles
    label="Expiries"
    options={['all', 'focus']}
    words={(one) => (one === 'all' ? 'unfold all' : 'only the focus')}
    isOn={(one) => (one === 'all' ? isAllOpen : params.opened === null)}
    onchoose={(one) => (one === 'all' ? desk.openAll() : desk.openOne())}
  />
</div>

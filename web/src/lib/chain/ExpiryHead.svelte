<script lang="ts">
  import { expiryClass } from '@umwelt/core';
  import { depthColor } from '$lib/charts/depth';
  import { borrowedWords, figures, shortDay } from '$lib/formats';
  import { useTheme, useWorkbench } from '$lib/state';
  import type { FittedSlice } from '$lib/workers';

  let { slice, isOpen, ontoggle }: { slice: FittedSlice; isOpen: boolean; ontoggle: () => void } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const fit = $derived(slice.fit);
  const year = $derived(bench.shown?.snapshot.asof.slice(0, 4));
</script>

<button
  class="flex h-full w-full cursor-pointer items-center gap-2.5 overflow-hidden border-y border-line px-2.5 text-left whitespace-nowrap hover:bg-band {isOpen
    ? 'bg-band'
    : 'bg-page'}"
  aria-expanded={isOpen}
  onclick={ontoggle}
>
  <span class="size-2.5 flex-none rounded-[2px]" style="background: {depthColor(fit.days, theme.tokens)}"></span>
  <b class="w-[74px] flex-none">{isOpen ? '▾' : '▸'} {shortDay(slice.expiry, year)}</b>
  <span class="w-[172px] flex-none text-soft"
    >{figures.days(fit.days)} d · {figures.counted(fit.sessions, 'session')} · {expiryClass(
      bench.calendar,
      slice.expiry,
    )}</span
  >
  <span class="flex-none">forward <b class="figures">{figures.fixed(fit.forward, bench.decimals)}</b></span>
  <span class="flex-none">ATM <b class="figures">{figures.vol(fit.atmVol)}</b></span>
  <span class="flex-none" title="expected move by the straddle, and as one deviation">
    move <b class="figures">{figures.plusMinus(fit.straddleMove, bench.decimals)}</b>
    <span class="text-soft">dev. <span class="figures">{figures.fixed(fit.deviationMove, bench.decimals)}</span></span>
  </span>
  {#if fit.borrowed}
    <span class="text-implied" title={borrowedWords(fit.borrowed)}>⋯ {fit.borrowed.source}</span>
  {/if}
  <span class="flex-none text-soft" title="contracts that are used, of those that are listed"
    >{figures.count(fit.usable)} of {figures.count(fit.contracts)} used</span
  >
</button>

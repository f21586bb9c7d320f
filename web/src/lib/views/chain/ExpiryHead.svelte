<script lang="ts">
  import { expiryClass } from '@umwelt/core';
  import { depthColor } from '$lib/charts/depth';
  import { borrowedWords, figures, shortExpiry } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import { useTheme, useWorkbench } from '$lib/state';
  import type { FittedSlice } from '$lib/data';
  import { expiryWork } from '$lib/working/expiry';
  import { straddleOf } from '$lib/structure';
  import { Worked, provideArea } from '$lib/ui';

  let { slice, isOpen, ontoggle }: { slice: FittedSlice; isOpen: boolean; ontoggle: () => void } = $props();

  const bench = useWorkbench();
  // An expiry is one stop for the tab key; its numbers stand in the working of each of its contracts, too.
  provideArea();
  const theme = useTheme();
  const fit = $derived(slice.fit);
  const year = $derived(bench.snapshot.shown?.snapshot.asof.slice(0, 4));
  const straddle = () => bench.snapshot.shown && straddleOf(bench.snapshot.shown, slice, 'forward');
</script>

<!-- The button does for the keyboard what a click anywhere on the head does. -->
<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
<div
  class="flex h-full w-full cursor-pointer items-center gap-2.5 overflow-hidden border-y border-line px-2.5 text-left whitespace-nowrap hover:bg-band {isOpen
    ? 'bg-band'
    : 'bg-page'}"
  onclick={ontoggle}
>
  <span class="size-2.5 flex-none rounded-[2px]" style="background: {depthColor(fit.days, theme.tokens)}"></span>
  <button
    class="w-[284px] flex-none cursor-pointer truncate text-left"
    aria-expanded={isOpen}
    onclick={(event) => {
      event.stopPropagation();
      ontoggle();
    }}
    ><b class="inline-block w-[84px]">{isOpen ? '▾' : '▸'} {shortExpiry(slice, year)}</b><span class="text-soft"
      >{figures.days(fit.days)} d · {figures.counted(fit.sessions, 'session')} · {expiryClass(
        bench.market.calendar,
        slice.expiry,
      )}</span
    ></button
  >
  {@render figure('forward', figures.fixed(fit.forward, bench.market.decimals), 'forward')}
  <span class="flex-none">
    {@render figure('ATM', figures.vol(fit.atmVol), 'vol')}
    {#if !fit.borrowed}<Doubt text={figures.volDoubt(fit.atmVolUncertainty)} />{/if}
  </span>
  <span class="flex-none" title="expected move by the straddle at the forward, and as one deviation">
    {@render figure('move', figures.plusMinus(fit.straddleMove, bench.market.decimals), 'straddle')}
    {#if !fit.borrowed}<Doubt text={figures.doubt(fit.straddleUncertainty, bench.market.decimals)} />{/if}
    <span class="text-soft"
      >{@render figure('dev.', figures.fixed(fit.deviationMove, bench.market.decimals), 'deviation')}</span
    >
  </span>
  {#if fit.borrowed}
    <span class="text-implied" title={borrowedWords(fit.borrowed)}>⋯ {fit.borrowed.source}</span>
  {/if}
  <span class="flex-none text-soft" title="contracts that are used, of those that are listed"
    >{figures.count(fit.usable)} of {figures.count(fit.contracts)} used</span
  >
</div>

{#snippet figure(name: string, value: string, at: string)}
  <span class="flex-none"
    >{name}
    <b class="figures"
      ><Worked open={() => (bench.dialogs.work = { ...expiryWork(fit, straddle()), at })}>{value}</Worked></b
    ></span
  >
{/snippet}

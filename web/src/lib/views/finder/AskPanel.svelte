<script lang="ts">
  import { figures } from '$lib/formats';
  import type { FinderDesk } from './desk.svelte';
  import KindsPart from './KindsPart.svelte';
  import LimitsPart from './LimitsPart.svelte';
  import MadePart from './MadePart.svelte';
  import PlacePart from './PlacePart.svelte';
  import { grouped } from './rows';
  import TemplateMenu from './TemplateMenu.svelte';
  import WeightsPart from './WeightsPart.svelte';

  /** What is looked for: where, which kinds, within which limits, by which weights. */
  let { desk }: { desk: FinderDesk } = $props();

  const shown = $derived(desk.shown);
  /** Underlyings that were left out, by why. */
  const skipped = $derived(grouped(shown?.skipped ?? [], ({ why }) => why));
</script>

<section class="panel min-h-0 flex-1 contain-strict" aria-label="Finder">
  <header class="flex flex-none flex-wrap items-baseline gap-2 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Finder</h2>
    <span class="flex-1"></span>
    <TemplateMenu />
  </header>
  <div class="min-h-0 flex-1 overflow-y-auto px-3 pt-1.5 pb-2">
    <PlacePart {desk} />
    <div class="mt-1.5"><KindsPart /></div>
    <div class="mt-2"><LimitsPart {desk} /></div>
    <WeightsPart />
  </div>
  <div
    class="flex flex-none items-center gap-2 border-t border-line px-3 py-1.5 text-[12px]"
    data-testid="finder-counts"
  >
    <div class="min-w-0 flex-1 leading-tight">
      {#if desk.progress && desk.isLooking}
        <div class="flex items-center gap-2">
          <progress
            class="progress h-1.5 w-24"
            value={desk.progress.done}
            max={desk.progress.of}
            aria-label="Looked through"
          ></progress>
          <span>{desk.progress.done} of {desk.progress.of}</span>
          <button class="btn btn-xs" onclick={() => desk.cancel()}>stop</button>
        </div>
      {/if}
      {#if shown}
        <p class="m-0">
          <b>{figures.count(shown.made)}</b> made ·
          <b>{figures.count(shown.within)}</b> within all limits
        </p>
        {#if shown.over > 0}<p class="m-0 text-soft">
            {figures.count(shown.over)} more were not measured: fewer days or kinds make room
          </p>{/if}
        {#if shown.unknown > 0}<p class="m-0 text-soft">
            {figures.count(shown.unknown)} have no score: a weighted measure is not known
          </p>{/if}
        {#each skipped as [why, own] (why)}<p
            class="m-0 truncate text-soft"
            title={own.map(({ symbol }) => symbol).join(', ')}
          >
            {own.length === 1 ? own[0]!.symbol : `${own.length} underlyings`}: {why}
          </p>{/each}
      {:else if desk.isLooking}<p class="m-0 text-soft">Looking …</p>{/if}
    </div>
    <MadePart />
  </div>
</section>

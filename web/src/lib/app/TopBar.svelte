<script lang="ts">
  import Settings from '@lucide/svelte/icons/sliders-horizontal';
  import { BASES } from '@umwelt/core';
  import { figures, rankWords } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import { QUOTES, useWorkbench } from '$lib/state';

  let { onfind, onbases }: { onfind: () => void; onbases: () => void } = $props();

  const bench = useWorkbench();
  const underlying = $derived(bench.market.underlying);
  const decimals = $derived(figures.decimalsOf(underlying?.tick));
  const source = $derived(
    (bench.snapshot.shown && bench.focus.lit
      ? bench.snapshot.shown.snapshot.slices[bench.focus.lit.slice]!.fit.forwardSource
      : null) ?? 'parity',
  );
  const isAmerican = $derived(underlying?.exercise === 'american');
</script>

<header class="flex h-12 flex-none items-center gap-2.5 overflow-hidden border-b border-line bg-panel px-3.5 xl:gap-3">
  {#if underlying}
    <h1 class="text-[17px] font-bold">{underlying.symbol}</h1>
    <span class="hidden truncate text-soft xl:inline">{underlying.name}</span>
    <span class="figures text-[17px]! font-semibold" data-testid="price"
      >{figures.fixed(bench.moment.summary?.price, decimals)}</span
    >
    {#if Number.isFinite(bench.moment.change)}
      <span
        class="figures {bench.moment.change < 0 ? 'text-loss' : 'text-gain'}"
        data-testid="change"
        title="from the close of the session before, in shares of the moment"
      >
        {bench.moment.change < 0 ? '▼' : '▲'}
        {figures.percent(Math.abs(bench.moment.change), 2)}
      </span>
    {/if}
    <span
      class="rounded-[5px] border border-line px-2 py-0.5 whitespace-nowrap text-soft"
      title={bench.moment.rank
        ? `of iv30 over the ${figures.counted(bench.moment.rank.sessions, 'session')} held, from ${figures.vol(bench.moment.rank.low)} to ${figures.vol(bench.moment.rank.high)}`
        : 'no iv30 at this moment'}
    >
      iv30 <b class="text-ink">{figures.vol(bench.moment.summary?.iv30)}</b>
      <Doubt text={figures.volDoubt(bench.moment.summary?.iv30Uncertainty)} /> ·
      <span class="text-ink">{rankWords(bench.moment.rank)}</span>
      {#if bench.moment.rank}<span class="hidden text-[11px] xl:inline"
          >of {figures.counted(bench.moment.rank.sessions, 'session')}</span
        >{/if}
    </span>
  {:else}
    <h1 class="text-[17px] font-bold">Umwelt</h1>
  {/if}
  <span class="flex-1"></span>
  <label class="flex items-center gap-1 rounded-[5px] border border-line px-2 py-0.5">
    <span class="text-soft">Basis</span>
    <select class="cursor-pointer bg-panel font-semibold" bind:value={bench.context.basis} data-testid="basis">
      {#each BASES as basis (basis)}<option value={basis}>{basis}</option>{/each}
    </select>
    <kbd class="kbd kbd-xs">b</kbd>
    <button
      class="cursor-pointer text-soft hover:text-ink"
      aria-label="What the bases are"
      title="what the bases are: estimator, window, past paths, a vol of your own"
      onclick={onbases}><Settings size={13} /></button
    >
  </label>
  <span
    class="rounded-[5px] border border-line px-2 py-0.5 whitespace-nowrap"
    title="{isAmerican
      ? 'Early exercise by its boundary, on the price with the yield that leads to the forward'
      : 'European exercise, on the forward'} by {source === 'parity'
      ? 'put–call parity'
      : 'carry, where parity has too few quotes'}"
    data-testid="model"
  >
    <span class="text-soft">Model</span>
    <b>{isAmerican ? 'American' : 'European'}<span class="hidden xl:inline">, {source} forward</span></b>
  </span>
  <label
    class="flex items-center gap-1 rounded-[5px] border border-line px-2 py-0.5"
    title="which quote a contract's own vol is read from"
  >
    <span class="text-soft">Quotes</span>
    <select class="cursor-pointer bg-panel font-semibold" bind:value={bench.context.quotes} data-testid="quotes">
      {#each QUOTES as side (side)}<option value={side}>{side}</option>{/each}
    </select>
  </label>
  <button
    class="flex flex-none cursor-pointer items-center rounded-[5px] border border-line px-1.5 py-1"
    title="views, underlyings, expiries, dates, bases, screens, structures by their names"
    onclick={onfind}
  >
    <kbd class="kbd kbd-xs whitespace-nowrap">ctrl k</kbd><span class="sr-only">Do anything by its name</span>
  </button>
</header>

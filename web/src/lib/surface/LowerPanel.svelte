<script lang="ts">
  import { expiryIndex, SURFACE_PANELS, useWorkbench } from '$lib/state';
  import ArbitrageList from './ArbitrageList.svelte';
  import AsideList from './AsideList.svelte';
  import Density from './Density.svelte';
  import ExpiryTable from './ExpiryTable.svelte';

  const bench = useWorkbench();
  const PANELS = { expiries: 'Expiries', density: 'Density', arbitrage: 'Arbitrage', aside: 'Set aside' } as const;

  const fits = $derived(bench.shown?.snapshot.slices.map((slice) => slice.fit) ?? []);
  const frame = $derived(bench.frame);
</script>

<section class="panel flex-[4]" aria-label={PANELS[bench.context.panel]}>
  <header class="flex items-center gap-2.5 px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold">{PANELS[bench.context.panel]}</h2>
    {#if frame && bench.context.panel !== 'expiries'}<span class="truncate text-soft">as it was before playing</span
      >{/if}
    <span class="flex-1"></span>
    <div class="toggle-group" role="group" aria-label="Lower panel">
      {#each SURFACE_PANELS as panel (panel)}
        <button
          aria-pressed={bench.context.panel === panel}
          onclick={() => (bench.context.panel = panel)}
          title={PANELS[panel]}>{panel}</button
        >
      {/each}
    </div>
  </header>
  {#if bench.context.panel === 'density'}
    <Density />
  {:else if bench.context.panel === 'arbitrage'}
    <ArbitrageList />
  {:else if bench.context.panel === 'aside'}
    <div class="min-h-0 flex-1 overflow-auto">
      {#if fits.every(({ aside, expiryAside }) => aside.length === 0 && !expiryAside)}
        <p class="p-3 text-soft">Every quote with a vol is in use.</p>
      {/if}
      <AsideList />
    </div>
  {:else}
    <ExpiryTable
      fits={frame?.expiries ?? fits}
      lit={frame ? expiryIndex(frame.expiries, bench.context.expiry) : (bench.lit?.slice ?? null)}
    />
  {/if}
</section>

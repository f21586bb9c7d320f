<script lang="ts">
  import {
    AnnouncementsPanel,
    Choices,
    ConePanel,
    HistoryDesk,
    HistoryTabs,
    PathPanel,
    PremiumPanel,
    StandingPanel,
  } from '$lib/views/history';
  import { shortDay } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { PARAMS } from '$lib/views/history/params';
  import { Split } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const desk = new HistoryDesk(bench);
  const view = $derived(params.picture);
  const lastBar = $derived(bench.market.current?.history[bench.moment.lastBar]);
</script>

{#snippet pictures()}
  <section class="panel min-w-0 flex-1" aria-label="History">
    <header class="flex items-baseline gap-2.5 px-3 pt-2 pb-1.5">
      <HistoryTabs />
      <span class="min-w-0 flex-1 truncate text-right text-soft"
        >{lastBar ? `bars through ${shortDay(lastBar.date)}, without dividends and splits` : ''}</span
      >
    </header>
    {#if view !== 'announcements'}<Choices hasPath={view === 'path'} />{/if}
    {#if view === 'path'}
      <PathPanel {desk} />
    {:else if view === 'cone'}
      <ConePanel {desk} />
    {:else if view === 'premium'}
      <PremiumPanel {desk} />
    {:else}
      <AnnouncementsPanel />
    {/if}
  </section>
{/snippet}
{#snippet standing()}<StandingPanel {desk} />{/snippet}

<Split
  id="history"
  direction="horizontal"
  label="Width of the pictures"
  size={71}
  least={[40, 18]}
  first={pictures}
  second={standing}
/>

<script lang="ts">
  import { expiriesSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { expiryIndex, useWorkbench, useParams } from '$lib/state';
  import Deliveries from './Deliveries.svelte';
  import Density from './Density.svelte';
  import ExpiryTable from './ExpiryTable.svelte';
  import QuotesPanel from './QuotesPanel.svelte';
  import { PARAMS, SURFACE_PANELS } from './params';
  import { Toggles } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const PANELS = {
    expiries: 'Expiries',
    density: 'Density',
    arbitrage: 'Arbitrage',
    aside: 'Set aside',
    deliveries: 'Deliveries',
  } as const;
  const isFuture = $derived(bench.market.underlying?.kind === 'future');
  /** Only futures have deliveries. */
  const panels = $derived(SURFACE_PANELS.filter((panel) => isFuture || panel !== 'deliveries'));
  const shownPanel = $derived(panels.includes(params.panel) ? params.panel : 'expiries');

  const frame = $derived(bench.playback.frame);
</script>

<section class="panel min-h-0 flex-1" aria-label={PANELS[shownPanel]}>
  <header class="flex items-center gap-2.5 px-3 pt-2 pb-1">
    <h2 class="sr-only text-[15px] font-bold xl:not-sr-only" class:sr-only!={isFuture}>{PANELS[shownPanel]}</h2>
    <span class="flex-1"></span>
    <Toggles
      label="Lower panel"
      options={panels}
      titles={(panel) => PANELS[panel]}
      value={shownPanel}
      onchoose={(panel) => (params.panel = panel)}
    />
  </header>
  {#if shownPanel === 'density'}
    <Density />
  {:else if shownPanel === 'deliveries'}
    <Deliveries />
  {:else if shownPanel === 'arbitrage' || shownPanel === 'aside'}
    <QuotesPanel about={shownPanel} />
  {:else}
    <ExpiryTable
      fits={bench.snapshot.expiries}
      lit={frame ? expiryIndex(frame.expiries, bench.context) : (bench.focus.lit?.slice ?? null)}
    />
    {#if bench.snapshot.expiries.length > 0}<div class="flex-none p-2 pt-1">
        <Sentence sentence={expiriesSentence(bench.snapshot.expiries)} />
      </div>{/if}
  {/if}
</section>

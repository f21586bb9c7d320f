<script lang="ts">
  import { useWorkbench, useParams } from '$lib/state';
  import type { OddsDesk } from './desk.svelte';
  import EventsTable from './EventsTable.svelte';
  import ExpiryMoves from './ExpiryMoves.svelte';
  import PainPanel from './PainPanel.svelte';
  import RecordPanel from './RecordPanel.svelte';
  import StrikesTable from './StrikesTable.svelte';
  import ZonesTable from './ZonesTable.svelte';
  import { LEFT_PANELS, PARAMS } from './params';

  let { desk }: { desk: OddsDesk } = $props();
  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const NAMES = {
    expiries: 'By expiry',
    record: 'Record',
    zones: 'Zones',
    strikes: 'By strike',
    events: 'Events',
    pain: 'Max pain',
  } as const;
  const open = $derived(params.left);
</script>

<section class="panel flex-[9]" aria-label={NAMES[open]}>
  <nav class="flex items-baseline gap-3 px-3 pt-2 pb-1" aria-label="Left panel">
    {#each LEFT_PANELS as panel (panel)}
      {#if open === panel}
        <h2 class="text-[15px] font-bold" aria-current="page">{NAMES[panel]}</h2>
      {:else}
        <button
          class="cursor-pointer text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
          onclick={() => (params.left = panel)}>{NAMES[panel]}</button
        >
      {/if}
    {/each}
  </nav>
  {#if !bench.snapshot.shown}
    <p class="m-auto text-soft">{bench.problem ?? 'Loading …'}</p>
  {:else if open === 'expiries'}<ExpiryMoves {desk} />
  {:else if open === 'record'}<RecordPanel {desk} />
  {:else if open === 'zones'}<ZonesTable {desk} />
  {:else if open === 'strikes'}<StrikesTable {desk} />
  {:else if open === 'events'}<EventsTable {desk} />
  {:else}<PainPanel {desk} />{/if}
</section>

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
  import { TitleTabs } from '$lib/ui';

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

<section class="panel min-h-0 flex-1" aria-label={NAMES[open]}>
  <header class="px-3 pt-2 pb-1">
    <TitleTabs label="Left panel" options={LEFT_PANELS} names={NAMES} bind:value={params.left} />
  </header>
  {#if !bench.snapshot.shown}
    <p class="m-auto text-soft">{bench.problem ?? 'Loading …'}</p>
  {:else if open === 'expiries'}<ExpiryMoves {desk} />
  {:else if open === 'record'}<RecordPanel {desk} />
  {:else if open === 'zones'}<ZonesTable {desk} />
  {:else if open === 'strikes'}<StrikesTable {desk} />
  {:else if open === 'events'}<EventsTable {desk} />
  {:else}<PainPanel {desk} />{/if}
</section>

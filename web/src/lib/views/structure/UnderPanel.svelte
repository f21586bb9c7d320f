<script lang="ts">
  import { useParams } from '$lib/state';
  import { TitleTabs } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';
  import LegGreeks from './LegGreeks.svelte';
  import { PARAMS, UNDERS, type Under } from './params';
  import Stress from './Stress.svelte';

  /** What is under the profile: one of some tables. */
  let { desk }: { desk: StructureDesk } = $props();

  const params = useParams(PARAMS);
  const NAMES: Record<Under, string> = { stress: 'Stress', greeks: 'Greeks of legs', kept: 'Kept' };
  const SAYS: Record<Under, string> = {
    stress: 'profit against the fill, at the date of the scenario; the worst cell is marked',
    greeks: 'of all of each leg, on the basis, in the scenario',
    kept: '',
  };
</script>

<section class="panel min-h-0 flex-1" aria-label={NAMES[params.under]}>
  <header class="flex flex-none items-baseline gap-3 px-3 pt-2">
    <TitleTabs label="Under the profile" options={UNDERS} names={NAMES} bind:value={params.under} />
    <span class="min-w-0 truncate text-[12px] text-soft">{SAYS[params.under]}</span>
  </header>
  {#if params.under === 'stress'}<Stress {desk} />{:else if params.under === 'greeks'}<LegGreeks {desk} />{/if}
</section>

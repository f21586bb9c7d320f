<script lang="ts">
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import type { OddsDesk } from './desk.svelte';
  import FuturePanel from './FuturePanel.svelte';
  import HedgePanel from './HedgePanel.svelte';
  import StructurePanel from './StructurePanel.svelte';
  import { PARAMS, RIGHT_PANELS } from './params';
  import { TitleTabs } from '$lib/ui';

  let { desk }: { desk: OddsDesk } = $props();
  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const focus = $derived(bench.focus.current);
  const open = $derived(params.right);
  const NAMES = { contract: 'The contract', spread: 'The structure', hedge: 'Sold straddle' } as const;
</script>

<section class="panel min-h-0 flex-1" aria-label={NAMES[open]}>
  <header class="px-3 pt-2 pb-1">
    <TitleTabs
      label="Right panel"
      options={RIGHT_PANELS}
      names={NAMES}
      title={open === 'contract' && focus
        ? `${shortExpiry(focus)} ${figures.strike(focus.strike)} ${focus.side} from here`
        : undefined}
      titleTestId={open === 'contract' ? 'lit' : undefined}
      bind:value={params.right}
    />
  </header>
  {#if !bench.snapshot.shown}
    <p class="m-auto text-soft">{bench.problem ?? 'Loading …'}</p>
  {:else if open === 'contract'}<FuturePanel {desk} />
  {:else if open === 'spread'}<StructurePanel />
  {:else}<HedgePanel {desk} />{/if}
</section>

<script lang="ts">
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import type { OddsDesk } from './desk.svelte';
  import FuturePanel from './FuturePanel.svelte';
  import HedgePanel from './HedgePanel.svelte';
  import StructurePanel from './StructurePanel.svelte';
  import { PARAMS, RIGHT_PANELS } from './params';

  let { desk }: { desk: OddsDesk } = $props();
  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const focus = $derived(bench.focus.current);
  const open = $derived(params.right);
  const names = $derived({
    contract: focus ? `${shortExpiry(focus)} ${figures.strike(focus.strike)} ${focus.side} from here` : 'The contract',
    spread: 'The structure',
    hedge: 'Sold straddle',
  });
  const SHORT = { contract: 'The contract', spread: 'The structure', hedge: 'Sold straddle' } as const;
</script>

<section class="panel flex-[9]" aria-label={SHORT[open]}>
  <nav class="flex items-baseline gap-3 px-3 pt-2 pb-1" aria-label="Right panel">
    {#each RIGHT_PANELS as panel (panel)}
      {#if open === panel}
        <h2 class="text-[15px] font-bold" aria-current="page" data-testid={panel === 'contract' ? 'lit' : undefined}>
          {names[panel]}
        </h2>
      {:else}
        <button
          class="cursor-pointer text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
          onclick={() => (params.right = panel)}>{SHORT[panel]}</button
        >
      {/if}
    {/each}
  </nav>
  {#if !bench.snapshot.shown}
    <p class="m-auto text-soft">{bench.problem ?? 'Loading …'}</p>
  {:else if open === 'contract'}<FuturePanel {desk} />
  {:else if open === 'spread'}<StructurePanel />
  {:else}<HedgePanel {desk} />{/if}
</section>

<script lang="ts">
  import { LawsPanel, LeftPanel, MovesPanel, OddsDesk, RightPanel } from '$lib/views/odds';
  import { useWorkbench } from '$lib/state';

  const bench = useWorkbench();
  const desk = new OddsDesk(bench);
</script>

{#if bench.market.current && bench.moment.index < 0}
  <section class="panel flex-1"><p class="m-auto text-soft">No chain is held at this moment.</p></section>
{:else}
  <div class="flex min-w-0 flex-[60] flex-col gap-2">
    <MovesPanel {desk} />
    <LeftPanel {desk} />
  </div>
  <div class="flex min-w-0 flex-[40] flex-col gap-2">
    <LawsPanel {desk} />
    <RightPanel {desk} />
  </div>
{/if}

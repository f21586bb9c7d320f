<script lang="ts">
  import { LawsPanel, LeftPanel, MovesPanel, OddsDesk, RightPanel } from '$lib/views/odds';
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';

  const bench = useWorkbench();
  const desk = new OddsDesk(bench);
</script>

{#snippet moves()}<MovesPanel {desk} />{/snippet}
{#snippet below()}<LeftPanel {desk} />{/snippet}
{#snippet laws()}<LawsPanel {desk} />{/snippet}
{#snippet contract()}<RightPanel {desk} />{/snippet}
{#snippet left()}
  <Split id="odds-left" direction="vertical" label="Height of the moves" size={55} first={moves} second={below} />
{/snippet}
{#snippet right()}
  <Split id="odds-right" direction="vertical" label="Height of the laws" size={57} first={laws} second={contract} />
{/snippet}

{#if bench.market.current && bench.moment.index < 0}
  <section class="panel flex-1"><p class="m-auto text-soft">No chain is held at this moment.</p></section>
{:else}
  <Split
    id="odds"
    direction="horizontal"
    label="Width of the moves"
    size={60}
    least={[30, 25]}
    first={left}
    second={right}
  />
{/if}

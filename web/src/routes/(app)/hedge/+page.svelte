<script lang="ts">
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';
  import { AheadPanel, ExposurePanel, HedgeDesk, InstrumentsPanel, StepsPanel } from '$lib/views/hedge';

  const bench = useWorkbench();
  const desk = new HedgeDesk(bench);
</script>

{#snippet exposure()}<ExposurePanel {desk} />{/snippet}
{#snippet instruments()}<InstrumentsPanel {desk} />{/snippet}
{#snippet steps()}<StepsPanel {desk} />{/snippet}
{#snippet ahead()}<AheadPanel {desk} />{/snippet}
{#snippet left()}
  <Split
    id="hedge-left"
    direction="vertical"
    label="Height of the exposure"
    size={36}
    first={exposure}
    second={instruments}
  />
{/snippet}
{#snippet right()}
  <Split id="hedge-right" direction="vertical" label="Height of the steps" size={52} first={steps} second={ahead} />
{/snippet}

{#if bench.market.current && bench.moment.index < 0}
  <section class="panel flex-1"><p class="m-auto text-soft">No chain is held at this moment.</p></section>
{:else}
  <Split
    id="hedge"
    direction="horizontal"
    label="Width of the exposure"
    size={28}
    least={[22, 50]}
    first={left}
    second={right}
  />
{/if}

<script lang="ts">
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';
  import { BookDesk, ExplainedPanel, FamiliesPanel, LimitsPanel, PositionsPanel, ScenarioPanel } from '$lib/views/book';

  const desk = new BookDesk(useWorkbench());
</script>

{#snippet families()}<FamiliesPanel {desk} />{/snippet}
{#snippet positions()}<PositionsPanel {desk} />{/snippet}
{#snippet left()}
  <Split
    id="book-left"
    direction="vertical"
    label="Height of the families"
    size={46}
    first={families}
    second={positions}
  />
{/snippet}
{#snippet scenarios()}<ScenarioPanel {desk} />{/snippet}
{#snippet lower()}
  <div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
    <ExplainedPanel {desk} />
    <LimitsPanel {desk} />
  </div>
{/snippet}
{#snippet right()}
  <Split
    id="book-right"
    direction="vertical"
    label="Height of the scenarios"
    size={40}
    first={scenarios}
    second={lower}
  />
{/snippet}

<Split
  id="book"
  direction="horizontal"
  label="Width of the positions"
  size={61}
  least={[40, 25]}
  first={left}
  second={right}
/>

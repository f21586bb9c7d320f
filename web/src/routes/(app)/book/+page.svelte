<script lang="ts">
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';
  import { BookDesk, FamiliesPanel, LimitsPanel, PositionsPanel, ScenarioPanel } from '$lib/views/book';

  const desk = new BookDesk(useWorkbench());
</script>

{#snippet families()}<FamiliesPanel {desk} />{/snippet}
{#snippet positions()}<PositionsPanel {desk} />{/snippet}
{#snippet left()}
  <Split id="book-left" direction="vertical" label="Height of the families" size={46} first={families} second={positions} />
{/snippet}
{#snippet right()}
  <div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
    <ScenarioPanel {desk} />
    <LimitsPanel {desk} />
  </div>
{/snippet}

<Split id="book" direction="horizontal" label="Width of the positions" size={61} least={[40, 25]} first={left} second={right} />

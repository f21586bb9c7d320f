<script lang="ts">
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';
  import { AskPanel, FinderDesk, RowPanel, RowsPanel } from '$lib/views/finder';

  const bench = useWorkbench();
  const desk = new FinderDesk(bench);
</script>

{#snippet ask()}<AskPanel {desk} />{/snippet}
{#snippet rows()}<RowsPanel {desk} />{/snippet}
{#snippet row()}<RowPanel {desk} />{/snippet}
{#snippet right()}
  <Split
    id="finder-right"
    direction="horizontal"
    label="Width of the rows"
    size={71}
    least={[40, 20]}
    first={rows}
    second={row}
  />
{/snippet}

<Split
  id="finder"
  direction="horizontal"
  label="Width of what is looked for"
  size={20}
  least={[17, 50]}
  first={ask}
  second={right}
/>

<script lang="ts">
  import { ColumnPicker } from '$lib/ui';
  import { MOST_COLUMNS, useWorkbench } from '$lib/state';
  import { KNOWN_COLUMNS, USUAL_COLUMNS, columnNamed } from '$lib/columns';

  const bench = useWorkbench();
  let isOpen = $state(false);
  /** Formulas that somebody has typed are known by themselves. */
  const known = $derived([
    ...KNOWN_COLUMNS,
    ...bench.context.show.flatMap((key) =>
      KNOWN_COLUMNS.some((one) => one.key === key) ? [] : (columnNamed(key) ?? []),
    ),
  ]);
</script>

<div class="toggle-group">
  <button aria-haspopup="dialog" title="which columns, and in which order" onclick={() => (isOpen = true)}
    >columns</button
  >
</div>

<ColumnPicker
  bind:isOpen
  shown={bench.context.show}
  {known}
  most={MOST_COLUMNS}
  usual={USUAL_COLUMNS}
  none="No column says so. Any formula can be one: type it above the table."
  onchange={(keys) => (bench.context.show = keys)}
/>

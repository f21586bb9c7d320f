<script lang="ts">
  import Table from '@lucide/svelte/icons/table';
  import ChartLine from '@lucide/svelte/icons/chart-line';
  import { untrack, type Snippet } from 'svelte';
  import { offerTable } from '$lib/exports/shown';
  import { headsOf, textsOf, type DataTable } from '$lib/tables/data-table';

  import { DataGrid } from '$lib/ui';

  interface Props {
    /** What its figures are called as a file. */
    name: string;
    /** What the picture shows, for those who do not see it. */
    label: string;
    table: () => DataTable;
    /** Whether its figures are shown in place of the picture. */
    asTable?: boolean;
    children: Snippet;
  }

  let { name, label, table, asTable = $bindable(false), children }: Props = $props();

  // The name is fixed for the life of the component; the content changes.
  offerTable(
    untrack(() => name),
    () => label,
    () => table(),
  );
</script>

<figure class="relative m-0 min-h-0 min-w-0 flex-1 contain-strict" aria-label={label}>
  {@render children()}
  {#if asTable}
    {@const shown = table()}
    <DataGrid
      label="{label}, as a table"
      heads={headsOf(shown).map((head) => ({ label: head }))}
      rows={textsOf(shown)}
      keyOf={(_, i) => i}
      area="absolute inset-0 overflow-auto bg-panel"
    >
      {#snippet row(texts)}{#each texts as text, j (j)}<td class="cell py-0.5">{text}</td>{/each}{/snippet}
    </DataGrid>
  {/if}
  <button
    class="absolute bottom-0 left-0 z-20 cursor-pointer rounded bg-panel p-0.5 text-soft hover:text-ink"
    aria-pressed={asTable}
    title={asTable ? 'As a chart' : 'As a table'}
    aria-label={asTable ? 'As a chart' : 'As a table'}
    onclick={() => (asTable = !asTable)}
  >
    {#if asTable}<ChartLine size={14} />{:else}<Table size={14} />{/if}
  </button>
</figure>

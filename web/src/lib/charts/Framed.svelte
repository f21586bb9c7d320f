<script lang="ts">
  import Table from '@lucide/svelte/icons/table';
  import ChartLine from '@lucide/svelte/icons/chart-line';
  import { untrack, type Snippet } from 'svelte';
  import { offerTable } from '$lib/exports/shown';
  import { headsOf, tabbed, textsOf, type DataTable } from '$lib/tables/data-table';

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

  // A picture keeps its name as long as it lives; what it shows changes.
  offerTable(
    untrack(() => name),
    () => label,
    () => table(),
  );

  function copy(event: ClipboardEvent): void {
    // A table without a selection copies whole, as tabs.
    if (!asTable || String(getSelection()) !== '') return;
    event.clipboardData?.setData('text/plain', tabbed(table()));
    event.preventDefault();
  }
</script>

<figure class="relative m-0 min-h-0 min-w-0 flex-1 contain-strict" aria-label={label} oncopy={copy}>
  {@render children()}
  {#if asTable}
    {@const shown = table()}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="absolute inset-0 overflow-auto bg-panel" tabindex="0" role="region" aria-label="{label}, as a table">
      <table class="w-full border-collapse">
        <thead>
          <tr
            >{#each headsOf(shown) as head (head)}<th class="head-cell">{head}</th>{/each}</tr
          >
        </thead>
        <tbody>
          {#each textsOf(shown) as row, i (i)}
            <tr class="border-b border-line"
              >{#each row as cell, j (j)}<td class="cell py-0.5">{cell}</td>{/each}</tr
            >
          {/each}
        </tbody>
      </table>
    </div>
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

<script lang="ts">
  import { untrack } from 'svelte';
  import Copy from '@lucide/svelte/icons/copy';
  import Download from '@lucide/svelte/icons/download';
  import { figures } from '$lib/formats';
  import { Dialog, Toggles } from '$lib/ui';
  import { tabbed, type DataTable } from '$lib/tables/data-table';
  import { fileOf, FORMATS, save, type Format } from './files';
  import type { Shown, ShownTables } from './shown';
  import { problemOf } from '$lib/data/loaded.svelte';

  let { isOpen = $bindable(), shown }: { isOpen: boolean; shown: ShownTables } = $props();

  let chosen = $state('');
  let format = $state<Format>('csv');
  let said = $state<{ words: string; isProblem: boolean } | null>(null);

  /** As they are when the dialog opens: what is written is what was seen. */
  let tables = $state.raw<{ shown: Shown; table: DataTable }[]>([]);

  $effect.pre(() => {
    if (isOpen) untrack(look);
  });

  function look(): void {
    said = null;
    tables = [...shown.list].flatMap((one) => {
      const table = one.read();
      return table && table.rows.length > 0 ? [{ shown: one, table }] : [];
    });
  }

  const current = $derived(tables.find(({ shown: { name } }) => name === chosen) ?? tables[0]);

  async function write(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!current) return;
    const { name } = current.shown;
    try {
      save(await fileOf(current.table, name, format), `${name}.${format}`);
      isOpen = false;
    } catch (error) {
      said = { words: problemOf(error), isProblem: true };
    }
  }

  const address = $derived(current?.shown.address?.() ?? null);

  async function copy(text: string, words: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(text);
      said = { words, isProblem: false };
    } catch {
      said = { words: 'The browser does not let the page copy.', isProblem: true };
    }
  }
</script>

<Dialog title="Export what is in view" bind:isOpen>
  {#if tables.length === 0}
    <p class="m-0 text-soft">Nothing that can be exported is in view. What is held as a whole is in the Data view.</p>
  {:else}
    <form onsubmit={(event) => void write(event)}>
      <fieldset class="m-0 border-0 p-0">
        <legend class="sr-only">Table</legend>
        {#each tables as { shown: { name, title }, table } (name)}
          <label class="flex cursor-pointer items-baseline gap-2 border-b border-dotted border-line py-1.5">
            <input
              type="radio"
              class="radio self-center radio-xs"
              name="table"
              value={name}
              checked={name === current?.shown.name}
              onchange={() => (chosen = name)}
            />
            <span class="flex-1">{title()}</span>
            <span class="figures text-soft"
              >{figures.counted(table.rows.length, 'row')} × {figures.count(table.columns.length)}</span
            >
          </label>
        {/each}
      </fieldset>
      <p class="mt-2.5 mb-0 text-soft">Exact values: vols and odds as decimals, moments in UTC.</p>
      {#if address}
        <div class="mt-2.5 flex items-center gap-2">
          <label class="flex min-w-0 flex-1 items-center gap-2 text-soft"
            >For a spreadsheet that asks again
            <input
              class="figures min-w-0 flex-1 rounded-[5px] border border-line bg-panel px-2 py-0.5 text-[12px]!"
              readonly
              value={address}
              onfocus={(event) => event.currentTarget.select()}
            /></label
          >
          <button type="button" class="btn btn-xs" onclick={() => void copy(address, 'its address is copied')}
            ><Copy size={12} />address</button
          >
        </div>
      {/if}
      <div class="mt-3 flex items-center gap-2">
        <Toggles label="Format" options={FORMATS} bind:value={format} />
        <span class="min-w-0 flex-1 truncate {said?.isProblem ? 'text-loss' : 'text-soft'}" role="status"
          >{said?.words ?? ''}</span
        >
        <button
          type="button"
          class="btn btn-sm"
          onclick={() =>
            current &&
            void copy(
              tabbed(current.table),
              `${figures.counted(current.table.rows.length, 'row')} copied, as they are read`,
            )}><Copy size={14} />Copy</button
        >
        <button class="btn btn-primary btn-sm"><Download size={14} />Download</button>
      </div>
    </form>
  {/if}
</Dialog>

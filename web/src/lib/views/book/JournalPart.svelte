<script lang="ts">
  import { call } from '$lib/api/call';
  import { exactMoment } from '$lib/formats';
  import { Loaded, useWorkbench } from '$lib/state';
  import { DataGrid, type Head } from '$lib/ui';
  import type { BookDesk } from './desk.svelte';

  /** Every change of the book, the latest first. */
  let { desk }: { desk: BookDesk } = $props();

  const bench = useWorkbench();
  const zone = $derived(bench.market.calendar.zone);
  const journal = new Loaded((signal) => {
    const { book } = desk;
    return book ? call('GET /books/{id}/changes', { path: { id: book.id }, signal }) : null;
  });
  const HEADS: readonly Head[] = [
    { label: 'when', align: 'left' },
    { label: 'what', align: 'left' },
    { label: '', align: 'left' },
  ];
</script>

<DataGrid
  label="Journal"
  heads={HEADS}
  rows={journal.value?.changes ?? []}
  keyOf={({ id }) => id}
  rowClass={({ undone }) => (undone ? 'text-soft line-through' : '')}
  isDense
  isEdged
  testid="book-journal"
  none={journal.problem ?? (journal.value ? 'Nothing has been changed yet.' : 'Loading …')}
>
  {#snippet row({ made, words, undone })}
    <td class="cell text-left!">{exactMoment(Date.parse(made), zone)}</td>
    <td class="px-1.5">{words}</td>
    <td class="px-1.5 text-soft">{undone ? 'undone' : ''}</td>
  {/snippet}
</DataGrid>

<script lang="ts">
  import { DateTime } from 'luxon';
  import { figures } from '$lib/formats';
  import { isRunning, useWorkbench } from '$lib/state';
  import { DataGrid, type Head } from '$lib/ui';
  import type { DataDesk } from './desk.svelte';
  import {
    canOpen,
    canStop,
    countWords,
    isMoving,
    shareRead,
    sizeWords,
    stateWords,
    type ImportSummary,
  } from './imports';

  let { desk }: { desk: DataDesk } = $props();

  const bench = useWorkbench();

  const imports = $derived(desk.imports ?? []);
  const running = $derived(bench.tasks.list.filter(isRunning));
  const TASKS = {
    demo: 'The demo market is made and imported',
    rebuild: 'Fits and measures are derived anew',
    export: 'A file is written',
  };

  const when = (moment: string) => DateTime.fromISO(moment).toFormat('d LLL HH:mm');
  const tone = ({ status }: ImportSummary) =>
    status === 'done' ? 'text-gain' : ['refused', 'failed'].includes(status) ? 'text-loss' : 'text-soft';
  const mark = ({ status }: ImportSummary) =>
    status === 'done' ? '●' : ['refused', 'failed'].includes(status) ? '◆' : '○';
  const said = (row: ImportSummary) =>
    ['done', 'checked', 'deriving'].includes(row.status) ? countWords(row) : (row.detail ?? '');

  const HEADS: readonly Head[] = [
    { label: 'file', align: 'left' },
    { label: 'kind', align: 'left' },
    { label: 'rows' },
    { label: 'state', align: 'left' },
    { label: 'when' },
    { label: 'actions', isHidden: true },
  ];
</script>

{#snippet bar(share: number | null)}
  <progress class="progress h-1.5 w-24 align-middle text-implied" value={share ?? undefined} max="1"></progress>
{/snippet}

<div class="flex min-h-0 flex-1 flex-col overflow-auto" data-testid="imports">
  {#each running as task (task.id)}
    <p class="flex items-center gap-3 border-b border-line bg-band px-3 py-1.5" role="status">
      {@render bar(task.total > 0 ? task.done / task.total : null)}
      <span>{TASKS[task.kind]}</span>
      <span class="text-soft">{task.detail ?? (task.status === 'queued' ? 'waits' : (task.file ?? ''))}</span>
      <span class="flex-1"></span>
      <button class="btn btn-xs" onclick={() => desk.stopTask(task.id)}>stop</button>
    </p>
  {/each}
  {#each desk.uploads as upload (upload.name + upload.bytes)}
    <p class="flex items-center gap-3 border-b border-line bg-band px-3 py-1.5" role="status">
      {@render bar(upload.bytes > 0 ? upload.sent / upload.bytes : null)}
      <span>{upload.name} is sent, {sizeWords(upload.sent)} of {sizeWords(upload.bytes)}</span>
    </p>
  {/each}
  {#if desk.imports === null}
    <p class="p-6 text-center text-soft">Loading …</p>
  {:else if imports.length === 0}
    <p class="p-6 text-center text-soft">Nothing has been imported yet. Drop a file above.</p>
  {:else}
    <DataGrid
      label="Files that were imported"
      heads={HEADS}
      rows={imports}
      keyOf={(row) => row.id}
      isEdged
      area="flex-none"
    >
      {#snippet row(row)}
        <td class="max-w-44 truncate py-1" title="{row.file}, {sizeWords(row.bytes)}">{row.file}</td>
        <td class="px-1.5 text-soft">{row.what ?? '–'}</td>
        <td class="cell">{row.rows > 0 ? figures.count(row.rows) : ''}</td>
        <td class="max-w-60 truncate px-1.5" title={said(row)}>
          <span class={tone(row)}>{mark(row)} {stateWords(row)}</span>
          {#if isMoving(row)}{@render bar(shareRead(row))}{/if}
          <span class="text-soft">{said(row)}</span>
        </td>
        <td class="cell text-soft">{when(row.started)}</td>
        <td class="py-0.5 text-right whitespace-nowrap">
          {#if canOpen(row)}<button class="btn btn-xs" onclick={() => desk.look(row.id)}>look</button>{/if}
          {#if canStop(row)}<button class="btn btn-xs" onclick={() => desk.stop(row.id)}>stop</button>{/if}
          {#if row.status === 'done'}
            <button
              class="btn btn-xs"
              onclick={() => desk.takeBack(row.id)}
              title="Put everything back as it was before"
            >
              take back
            </button>
          {/if}
        </td>
      {/snippet}
    </DataGrid>
  {/if}
</div>

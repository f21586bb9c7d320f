<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import { EXPORT_CHOICES, exportPath, exportTask, formatsOf, isLong, save } from '$lib/exports';
  import { figures } from '$lib/formats';
  import { isRunning, useWorkbench, type Task, problemOf } from '$lib/state';
  import { call } from '$lib/api/call';
  import { sizeWords } from './imports';

  const bench = useWorkbench();

  let what = $state('chain');
  let of = $state<'one' | 'all'>('one');
  let when = $state<'moment' | 'all'>('moment');
  let format = $state('csv');
  /** The task whose file is handed over when it is there. */
  let awaited = $state<number | null>(null);
  let problem = $state<string | null>(null);

  const formats = $derived(formatsOf(what));
  const chosen = $derived(formats.includes(format) ? format : 'csv');
  const choice = $derived(EXPORT_CHOICES.find(({ name }) => name === what)!);
  const scope = $derived({
    symbol: choice.hasSymbol && of === 'one' ? bench.context.symbol : null,
    asof: choice.hasMoment && when === 'moment' ? (bench.moment.stored?.asof ?? null) : null,
  });
  const files = $derived(bench.tasks.list.filter(({ kind, fileBytes }) => kind === 'export' && fileBytes !== null));
  const task = $derived(bench.tasks.list.find(({ id }) => id === awaited));

  const pathOf = ({ id }: Task) => `/api/v1/tasks/${id}/file`;

  $effect(() => {
    const ended = task;
    if (!ended || isRunning(ended)) return;
    awaited = null;
    if (ended.status === 'done') save(pathOf(ended), ended.file ?? 'export');
    else if (ended.status === 'failed') problem = ended.detail;
  });

  async function write(): Promise<void> {
    problem = null;
    try {
      awaited = (await call('POST /tasks', { body: exportTask(what, chosen, scope) })).id;
      bench.tasks.look();
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<div class="border-t border-line px-3 py-1.5" role="group" aria-label="Export">
  <div class="flex items-center gap-2">
    <b class="text-[13px]">Export</b>
    <select class="select select-xs w-32" aria-label="What to export" bind:value={what}>
      {#each EXPORT_CHOICES as { name } (name)}<option value={name}>{name}</option>{/each}
    </select>
    {#if choice.hasSymbol}
      <select class="select select-xs w-33" aria-label="Of which underlyings" bind:value={of}>
        <option value="one">of {bench.context.symbol}</option>
        <option value="all">of all underlyings</option>
      </select>
    {/if}
    {#if choice.hasMoment}
      <select class="select select-xs w-33" aria-label="Of which moments" bind:value={when}>
        <option value="moment">at this moment</option>
        <option value="all">of all moments</option>
      </select>
    {/if}
    <select class="select select-xs w-24" aria-label="Format" bind:value={format}>
      {#each formats as name (name)}<option value={name}>{name}</option>{/each}
    </select>
    <span class="flex-1"></span>
    {#if isLong(what, scope)}
      <button class="btn btn-sm" disabled={awaited !== null} onclick={() => void write()}
        ><Download size={14} />Download</button
      >
    {:else}
      <a class="btn btn-sm" href={exportPath(what, chosen, scope)} download><Download size={14} />Download</a>
    {/if}
  </div>
  <p class="m-0 mt-1 truncate text-right empty:hidden" role="status">
    {#if problem}<span class="text-loss">◆ {problem}</span>
    {:else if task}<span class="text-soft">{figures.count(task.done)} of {figures.count(task.total)} rows</span>
    {:else if files[0]}
      <a class="link" href={pathOf(files[0])} download title="The file that was written last, kept for a week"
        >{files[0].file}, {sizeWords(files[0].fileBytes ?? 0)}</a
      >
    {/if}
  </p>
</div>

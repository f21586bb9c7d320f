<script lang="ts">
  import Upload from '@lucide/svelte/icons/file-up';
  import { DataDesk, ExportLine, FeedLine, Held, ImportList, ImportLook, Quality } from '$lib/views/data';
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';

  let { data } = $props();

  const bench = useWorkbench();
  const desk = new DataDesk(bench);
  let isOver = $state(false);
  let input = $state<HTMLInputElement>();

  $effect(() => desk.start());

  const file = $derived(desk.record?.file ?? '');

  function drop(event: DragEvent): void {
    event.preventDefault();
    isOver = false;
    if (event.dataTransfer) void desk.receive(event.dataTransfer.files);
  }
</script>

<svelte:window ondragover={(event) => event.preventDefault()} ondrop={(event) => event.preventDefault()} />

{#snippet imports()}
  <section
    class="panel flex-1 {isOver ? 'outline-2 outline-implied' : ''}"
    aria-label="Import"
    ondragenter={() => (isOver = true)}
    ondragover={(event) => event.preventDefault()}
    ondragleave={({ currentTarget, relatedTarget }) => {
      if (!(relatedTarget instanceof Node) || !currentTarget.contains(relatedTarget)) isOver = false;
    }}
    ondrop={drop}
  >
    <header class="flex items-center gap-2.5 px-3 py-2">
      <h2 class="text-[15px] font-bold">Import</h2>
      {#if desk.open !== null}
        <span class="truncate text-soft">{file}</span>
      {:else}
        <span class="truncate text-soft"
          >drop chains, bars, rates, dividends, events, prints, positions, fills here</span
        >
      {/if}
      <span class="flex-1"></span>
      <button
        class="btn btn-sm"
        onclick={() => desk.rebuild()}
        disabled={desk.isBusy}
        title="Derive fits and measures of everything anew"
      >
        Rebuild measures
      </button>
      <button class="btn btn-primary btn-sm" onclick={() => input?.click()}><Upload size={14} />Choose files</button>
      <input
        bind:this={input}
        type="file"
        multiple
        class="hidden"
        aria-label="Files to import"
        accept=".csv,.txt,.tsv,.gz,.json,.ndjson,.jsonl,.parquet,.xlsx,.ics"
        onchange={({ currentTarget }) => {
          void desk.receive([...(currentTarget.files ?? [])]);
          currentTarget.value = '';
        }}
      />
    </header>
    {#if desk.problem}<p class="px-3 pb-1.5 text-loss" role="alert">◆ {desk.problem}</p>{/if}
    {#if desk.open === null}<ImportList {desk} /><FeedLine /><ExportLine />{:else}<ImportLook
        {desk}
        layouts={data.layouts}
      />{/if}
  </section>
{/snippet}
{#snippet held()}<Held holdings={desk.holdings} />{/snippet}
{#snippet quality()}<Quality />{/snippet}
{#snippet stock()}
  <Split id="data-stock" direction="vertical" label="Height of what is held" size={55} first={held} second={quality} />
{/snippet}

<Split
  id="data"
  direction="horizontal"
  label="Width of the imports"
  size={57}
  least={[30, 25]}
  first={imports}
  second={desk.open === null ? stock : null}
/>

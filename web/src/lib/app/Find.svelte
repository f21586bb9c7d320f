<script lang="ts">
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { Dialog } from '$lib/ui';

  let { isOpen = $bindable() }: { isOpen: boolean } = $props();

  const bench = useWorkbench();
  let text = $state('');
  let at = $state(0);

  const found = $derived.by(() => {
    const wanted = text.trim().toLowerCase();
    return (bench.market.universe ?? []).filter((row) => `${row.symbol} ${row.name}`.toLowerCase().includes(wanted));
  });

  function choose(symbol: string | undefined): void {
    if (!symbol) return;
    bench.market.choose(symbol);
    isOpen = false;
    text = '';
  }

  function key(event: KeyboardEvent): void {
    if (event.key === 'ArrowDown') at = Math.min(at + 1, found.length - 1);
    else if (event.key === 'ArrowUp') at = Math.max(at - 1, 0);
    else if (event.key === 'Enter') choose(found[at]?.symbol);
    else return;
    event.preventDefault();
  }
</script>

<Dialog title="Find an underlying" bind:isOpen>
  <!-- svelte-ignore a11y_autofocus -->
  <input
    autofocus
    class="input w-full input-sm"
    placeholder="symbol or name"
    aria-label="Symbol or name"
    bind:value={text}
    oninput={() => (at = 0)}
    onkeydown={key}
  />
  <ul class="mt-2 max-h-72 list-none overflow-y-auto p-0" role="listbox" aria-label="Found">
    {#each found as row, i (row.symbol)}
      <li role="option" aria-selected={i === at}>
        <button
          class="flex w-full cursor-pointer gap-3 rounded px-2 py-1.5 text-left {i === at ? 'bg-band' : ''}"
          onclick={() => choose(row.symbol)}
          onpointerenter={() => (at = i)}
        >
          <b class="w-20">{row.symbol}</b><span class="flex-1 text-soft">{row.name}</span>
          <span class="figures">iv30 {figures.vol(row.iv30)}</span>
        </button>
      </li>
    {:else}
      <li class="px-2 py-1.5 text-soft">No underlying has “{text}” in its symbol or name.</li>
    {/each}
  </ul>
</Dialog>

<script lang="ts">
  import GripVertical from '@lucide/svelte/icons/grip-vertical';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { dndzone, type DndEvent } from 'svelte-dnd-action';

  interface Props {
    /** Those shown, by key and in their order. */
    shown: readonly string[];
    known: readonly { key: string; label: string; title: string }[];
    most: number;
    usual: readonly string[];
    /** What is said where nothing is found. */
    none: string;
    onchange: (keys: string[]) => void;
    onclose: () => void;
  }

  let { shown, known, most, usual, none, onchange, onclose }: Props = $props();
  let sought = $state('');

  interface Item {
    id: string;
  }
  /** As they are while one is dragged; those in view otherwise. */
  let dragged = $state.raw<Item[] | null>(null);
  const items = $derived(dragged ?? shown.map((id) => ({ id })));
  const byKey = $derived(new Map(known.map((one) => [one.key, one])));

  function settle({ detail }: CustomEvent<DndEvent<Item>>): void {
    dragged = null;
    onchange(detail.items.map(({ id }) => id));
  }

  function add(key: string): void {
    if (shown.length < most) onchange([...shown, key]);
  }

  function remove(key: string): void {
    // A table of nothing says nothing.
    if (shown.length > 1) onchange(shown.filter((other) => other !== key));
  }

  const offered = $derived(
    known.filter(
      ({ key, label, title }) =>
        !shown.includes(key) && `${label} ${title} ${key}`.toLowerCase().includes(sought.trim().toLowerCase()),
    ),
  );
</script>

<div class="grid h-[420px] grid-cols-2 gap-3 text-[12px]">
  <div class="flex min-h-0 flex-col">
    <p class="m-0 pb-1 text-soft">Shown, from the left: drag, or Enter and arrows</p>
    <ul
      class="m-0 min-h-0 flex-1 list-none overflow-y-auto rounded border border-line p-1"
      aria-label="Columns shown"
      use:dndzone={{ items: [...items], flipDurationMs: 0, dropTargetStyle: {}, type: 'columns' }}
      onconsider={({ detail }) => (dragged = detail.items)}
      onfinalize={settle}
    >
      {#each items as { id } (id)}
        <li class="flex h-6 items-center gap-1.5 bg-panel px-1 hover:bg-band" aria-label={byKey.get(id)?.label ?? id}>
          <GripVertical size={12} class="flex-none text-soft" />
          <span class="flex-1 truncate" title={byKey.get(id)?.title}>{byKey.get(id)?.label ?? id}</span>
          <button
            class="cursor-pointer text-soft hover:text-ink"
            aria-label="Remove {byKey.get(id)?.label ?? id}"
            onclick={() => remove(id)}><X size={12} /></button
          >
        </li>
      {/each}
    </ul>
  </div>
  <div class="flex min-h-0 flex-col">
    <input
      class="mb-1 rounded-[5px] border border-line bg-panel px-2 py-0.5"
      placeholder="find a column"
      aria-label="Find a column"
      bind:value={sought}
      onkeydown={(event) => event.stopPropagation()}
    />
    <ul
      class="m-0 min-h-0 flex-1 list-none overflow-y-auto rounded border border-line p-1"
      aria-label="Columns offered"
    >
      {#each offered as { key, label, title } (key)}
        <li>
          <button
            class="flex h-6 w-full cursor-pointer items-center gap-1.5 px-1 text-left hover:bg-band"
            {title}
            onclick={() => add(key)}
          >
            <Plus size={12} class="flex-none text-soft" /><b class="flex-none font-semibold">{label}</b><span
              class="truncate text-soft">{title}</span
            >
          </button>
        </li>
      {:else}
        <li class="p-2 text-soft">{none}</li>
      {/each}
    </ul>
  </div>
</div>
<div class="flex gap-2 pt-3">
  <button class="btn btn-xs" onclick={() => onchange([...usual])}>the usual ones</button>
  <span class="flex-1"></span>
  <button class="btn btn-xs" onclick={onclose}>done</button>
</div>

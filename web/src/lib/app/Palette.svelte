<script lang="ts">
  import { Command, computeCommandScore } from 'bits-ui';
  import { PersistedState } from 'runed';
  import { onMount } from 'svelte';
  import { useWorkbench } from '$lib/state';
  import type { Command as Doable } from '$lib/state/view';
  import { Dialog } from '$lib/ui';
  import type { Action } from './actions';
  import { commandsAtHand, commandsOfViews } from './commands';
  import { found, withRecent } from './found';
  import type { TypedAhead } from './typed-ahead';

  /** Created when it opens and removed when it closes. */
  interface Props {
    isOpen: boolean;
    actions: readonly Action[];
    open: (view: string) => void;
    /** The kind of thing that is looked for alone; null for all. */
    only?: string | null;
    /** What was typed before it was there. */
    typed: TypedAhead;
  }

  let { isOpen = $bindable(), actions, open, only = null, typed }: Props = $props();

  const bench = useWorkbench();
  const recent = new PersistedState<string[]>('umwelt-palette', []);
  let text = $derived(typed.text);
  /** Pressed before underlyings are known: done when they are. */
  let isEntered = $derived(typed.isEntered);
  let loaded = $state.raw<Doable[]>([]);
  const title = $derived(only ? `Find an ${only}` : 'Do anything by its name');

  onMount(() => {
    if (!only) void commandsOfViews(bench, open).then((commands) => (loaded = commands));
  });
  const all = $derived([...commandsAtHand(bench, actions), ...loaded].filter(({ kind }) => !only || kind === only));
  const offered = $derived(only && !text.trim() ? all : found(all, text, recent.current, computeCommandScore));

  /** The one that Enter runs: the best match, until another is chosen. */
  let chosen = $derived(offered[0]?.id ?? '');

  $effect(() => {
    if (isEntered && bench.market.universe && offered[0]) run(offered[0]);
  });

  function run({ id, run }: Doable): void {
    isOpen = false;
    recent.current = withRecent(recent.current, id);
    run();
  }
</script>

<Dialog {title} bind:isOpen>
  <Command.Root shouldFilter={false} label={title} vimBindings={false} loop bind:value={chosen}>
    <Command.Input
      data-first
      class="input w-full input-sm"
      placeholder={only ? 'symbol or name' : 'view, underlying, expiry, date (4 Oct), basis, screen, structure …'}
      aria-label={title}
      bind:value={text}
      oninput={() => (isEntered = false)}
      onkeydown={({ key }: KeyboardEvent) => (isEntered = key === 'Enter' && !bench.market.universe)}
    />
    <Command.List class="mt-2 h-80 overflow-y-auto text-[13px]" aria-label="Found">
      {#each offered as command (command.id)}
        <Command.Item
          value={command.id}
          class="flex cursor-pointer items-baseline gap-3 rounded px-2 py-1 data-selected:bg-band"
          onSelect={() => run(command)}
        >
          <span class="w-[70px] flex-none text-[11px] text-soft">{command.kind}</span>
          <span class="font-semibold whitespace-nowrap">{command.label}</span>
          <span class="min-w-0 flex-1 truncate text-soft">{command.hint ?? ''}</span>
          <span class="flex flex-none gap-1">
            {#each command.keys ?? [] as key (key)}<kbd class="kbd kbd-xs">{key}</kbd>{/each}
          </span>
        </Command.Item>
      {:else}
        <p class="px-2 py-1.5 text-soft">Nothing is called “{text}”.</p>
      {/each}
    </Command.List>
  </Command.Root>
</Dialog>

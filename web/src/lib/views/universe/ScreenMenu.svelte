<script lang="ts">
  import { UNDERLYING_KINDS } from '@umwelt/core';
  import Undo from '@lucide/svelte/icons/undo-2';
  import { useParams, problemOf } from '$lib/state';
  import { expandColumns, shortColumns, USUAL } from '$lib/columns';
  import { Refusal } from '$lib/api/call';
  import { dropKept, keepScreen, loadKept, type KeptScreen } from './kept';
  import { SHIPPED_SCREENS, type Screen } from './shipped';
  import { PARAMS } from './params';

  const params = useParams(PARAMS);

  let kept = $state.raw<KeptScreen[]>([]);
  let problem = $state<string | null>(null);
  /** The one of the same name that there is already. */
  let other = $state.raw<KeptScreen | null>(null);
  let isNaming = $state(false);
  let name = $state('');
  /** What was deleted last, to be brought back. */
  let gone = $state.raw<KeptScreen | null>(null);

  async function attempt(work: Promise<KeptScreen[]>): Promise<boolean> {
    try {
      kept = await work;
      problem = other = null;
      return true;
    } catch (error) {
      other = error instanceof Refusal && error.current ? (error.current as KeptScreen) : null;
      problem = other ? `“${other.name}” is kept already` : problemOf(error);
      return false;
    }
  }
  $effect(() => {
    void attempt(loadKept());
  });

  const named = (screen: Omit<Screen, 'name'>) => {
    const sort = screen.sort || PARAMS.start.sort;
    return JSON.stringify([expandColumns(screen.columns), screen.filters, screen.kinds, screen.families, sort]);
  };
  const inView = $derived.by(() => {
    const { show, keep, kinds, families, sort } = params;
    return { columns: shortColumns(show), filters: [...keep], kinds: [...kinds], families: [...families], sort };
  });
  const isSame = (screen: Screen) => named(screen) === named(inView);
  const all = $derived([...kept, ...SHIPPED_SCREENS]);
  const current = $derived(all.find(isSame) ?? null);
  const USUAL_SCREEN: Omit<Screen, 'name'> = { columns: [USUAL], filters: [], kinds: [], families: [], sort: '' };
  const isEmpty = $derived(named(inView) === named(USUAL_SCREEN));
  const held = $derived(kept.find((one) => one === current) ?? null);

  function choose(wanted: string): void {
    const screen = all.find((one) => one.name === wanted) ?? USUAL_SCREEN;
    params.show = expandColumns(screen.columns);
    params.keep = [...screen.filters];
    params.kinds = UNDERLYING_KINDS.filter((kind) => screen.kinds.includes(kind));
    params.families = [...screen.families];
    params.sort = screen.sort || PARAMS.start.sort;
  }

  async function keep(): Promise<void> {
    if (await attempt(keepScreen({ name, ...inView }, other?.name === name.trim() ? other.version : null))) {
      isNaming = false;
      gone = null;
    }
  }

  async function drop(screen: KeptScreen): Promise<void> {
    if (await attempt(dropKept(screen.id))) gone = screen;
  }

  async function undo(screen: KeptScreen): Promise<void> {
    if (await attempt(keepScreen(screen))) gone = null;
  }
</script>

<div class="flex items-center gap-1.5 text-[12px]">
  <select
    class="choice max-w-44"
    aria-label="Screen"
    value={current?.name ?? ''}
    onchange={(event) => choose(event.currentTarget.value)}
  >
    <option value="">{isEmpty ? 'screens …' : current ? 'none' : 'not kept'}</option>
    {#if kept.length > 0}
      <optgroup label="kept">
        {#each kept as { name: one } (one)}<option value={one}>{one}</option>{/each}
      </optgroup>
    {/if}
    <optgroup label="with the application">
      {#each SHIPPED_SCREENS as { name: one } (one)}<option value={one}>{one}</option>{/each}
    </optgroup>
  </select>
  {#if isNaming}
    <form
      class="flex gap-1"
      onsubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <!-- svelte-ignore a11y_autofocus -->
      <input
        class="w-36 rounded-[5px] border border-line bg-panel px-2 py-0.5 text-[12px]"
        aria-label="Name of the screen"
        placeholder="name"
        maxlength="60"
        required
        autofocus
        bind:value={name}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Escape') isNaming = false;
        }}
      />
      <button class="btn btn-xs">{other?.name === name.trim() ? 'replace it' : 'keep'}</button>
    </form>
  {:else if held}
    <button class="btn btn-xs" onclick={() => drop(held)}>delete</button>
  {:else if gone}
    <button class="btn btn-xs" title="bring “{gone.name}” back" onclick={() => undo(gone!)}
      ><Undo size={11} /> undo</button
    >
  {:else if !isEmpty && !current}
    <button
      class="btn btn-xs"
      onclick={() => {
        name = '';
        isNaming = true;
      }}>keep …</button
    >
  {/if}
  {#if problem}<span class="text-loss" role="alert">{problem}</span>{/if}
</div>

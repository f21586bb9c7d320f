<script lang="ts">
  import PanelRightOpen from '@lucide/svelte/icons/panel-right-open';
  import type { Snippet } from 'svelte';
  import { afterNavigate, goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { ExportDialog, provideShown } from '$lib/exports';
  import {
    BasisDialog,
    BottomLine,
    CloseUp,
    Find,
    Keys,
    listenForKeys,
    PlayedContract,
    Rail,
    Tideline,
    TopBar,
    VIEWS,
  } from '$lib/app';
  import { provideWorkbench, useTheme } from '$lib/state';

  import { WorkingDialog } from '$lib/working';

  let { children }: { children: Snippet } = $props();

  const bench = provideWorkbench(VIEWS.flatMap(({ params }) => params ?? []));
  const theme = useTheme();
  const shown = provideShown();
  bench.address.take(page.url.searchParams);

  let isReady = $state(false);
  let showsKeys = $state(false);
  let showsFind = $state(false);
  let showsExport = $state(false);
  let showsBases = $state(false);
  let isFolded = $state(localStorage.getItem('umwelt-close-up') === 'folded');

  /** The address follows when the picture is there; while it plays, when it rests. */
  const ADDRESS_DELAY = 150;

  const view = $derived(VIEWS.find(({ name }) => page.url.pathname === `/${name}`) ?? null);
  const hasCloseUp = $derived(view?.contract === 'close-up');
  const beside = $derived(view?.beside?.isWanted((params) => bench.address.of(params)) ? view.beside : null);

  $effect(() => {
    bench.dialogs.showsContract = view?.contract !== undefined;
  });

  function fold(state: boolean): void {
    isFolded = state;
    localStorage.setItem('umwelt-close-up', state ? 'folded' : 'open');
  }

  afterNavigate(({ to }) => {
    isReady = true;
    if (to) bench.address.take(to.url.searchParams);
  });

  $effect(() => {
    const { query } = bench.address;
    if (!isReady || bench.playback.isPlaying || query === location.search) return;
    const timer = setTimeout(() => replaceState(`${location.pathname}${query}`, {}), ADDRESS_DELAY);
    return () => clearTimeout(timer);
  });

  $effect(() =>
    listenForKeys({
      bench,
      open: (name) => void goto(`/${name}${bench.address.query}`),
      find: () => (showsFind = true),
      exports: () => (showsExport = true),
      help: () => (showsKeys = true),
      theme: () => theme.toggle(),
      working: () => bench.dialogs.openWorking(),
    }),
  );
</script>

<svelte:head>
  <title>{bench.context.symbol ? `${bench.context.symbol} · ` : ''}{view ? `${view.title} · ` : ''}Umwelt</title>
</svelte:head>

<div class="flex h-screen min-w-[1024px]">
  <Rail />
  <div class="flex min-w-0 flex-1 flex-col">
    <TopBar onfind={() => (showsFind = true)} onbases={() => (showsBases = true)} />
    <Tideline />
    <div class="flex min-h-0 flex-1 gap-2 p-2">
      <main class="flex min-h-0 min-w-0 flex-1 gap-2">{@render children()}</main>
      {#if hasCloseUp}
        <div class="flex flex-none flex-col gap-2 {isFolded && !beside ? 'w-7' : 'w-[274px] xl:w-[292px]'}">
          {#if isFolded}
            <button
              class="panel cursor-pointer items-center pt-3 text-soft hover:text-ink {beside ? 'h-10' : 'flex-1'}"
              title="Open the close-up"
              aria-label="Open the close-up"
              onclick={() => fold(false)}
            >
              <PanelRightOpen size={16} />
            </button>
          {:else}
            <div class="flex min-h-0 flex-1">
              {#if bench.playback.frame}<PlayedContract />{:else}<CloseUp
                  onfold={() => fold(true)}
                  onbases={() => (showsBases = true)}
                />{/if}
            </div>
          {/if}
          {#if beside}
            {#await beside.load() then { default: Beside }}<Beside />{/await}
          {/if}
        </div>
      {/if}
    </div>
    <BottomLine onkeys={() => (showsKeys = true)} onexport={() => (showsExport = true)} />
  </div>
</div>

<Keys bind:isOpen={showsKeys} />
<Find bind:isOpen={showsFind} />
<BasisDialog bind:isOpen={showsBases} />
<ExportDialog bind:isOpen={showsExport} {shown} />
<WorkingDialog work={bench.dialogs.work} onclose={() => (bench.dialogs.work = null)} />

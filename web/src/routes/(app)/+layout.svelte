<script lang="ts">
  import PanelRightOpen from '@lucide/svelte/icons/panel-right-open';
  import { onMount, type Component, type ComponentProps, type Snippet } from 'svelte';
  import { afterNavigate, beforeNavigate, goto, replaceState } from '$app/navigation';
  import { page } from '$app/state';
  import { ExportDialog, provideShown } from '$lib/exports';
  import {
    actionsOf,
    BasisDialog,
    BottomLine,
    CloseUp,
    Keys,
    listenForKeys,
    NOTHING_TYPED,
    PlayedContract,
    Rail,
    Tideline,
    TopBar,
    typeAhead,
    VIEWS,
    type TypedAhead,
  } from '$lib/app';
  import type { Ticket } from '$lib/book';
  import { HEDGED_PARAMS } from '$lib/hedged/params';
  import { provideWorkbench, useTheme } from '$lib/state';
  import { notices, notify, Split, Tips } from '$lib/ui';
  import { WorkingDialog } from '$lib/working';

  let { children }: { children: Snippet } = $props();

  const bench = provideWorkbench([...VIEWS.flatMap(({ params }) => params ?? []), HEDGED_PARAMS]);
  const theme = useTheme();
  const shown = provideShown();
  bench.address.take(page.url.searchParams);

  let isReady = $state(false);
  let showsKeys = $state(false);
  const PALETTE_DELAY = 400;
  let Palette = $state.raw<Component<ComponentProps<typeof import('$lib/app/Palette.svelte').default>> | null>(null);
  const loadPalette = async () => (Palette ??= (await import('$lib/app/Palette.svelte')).default);
  onMount(() => {
    // When the view has come to rest.
    const timer = setTimeout(() => void loadPalette(), PALETTE_DELAY);
    return () => clearTimeout(timer);
  });
  /** What the palette looks for; null while it is shut. */
  let sought = $state.raw<{ only: string | null; typed: TypedAhead } | null>(null);
  /** Opens the palette; what is typed before it is there is not lost. */
  async function seek(only: string | null): Promise<void> {
    if (Palette) {
      sought = { only, typed: NOTHING_TYPED };
      return;
    }
    let isLeft = false;
    const release = typeAhead(() => (isLeft = true));
    const failed = await loadPalette().then(
      () => null,
      () => 'The palette cannot be loaded.',
    );
    const typed = release();
    if (failed) notify(failed);
    else if (!isLeft) sought = { only, typed };
  }
  let showsExport = $state(false);
  let showsBases = $state(false);
  let isFolded = $state(localStorage.getItem('umwelt-close-up') === 'folded');
  /** Of the view beside the close-up, per cent: what the close-up needs is the same on every screen. */
  const CLOSE_UP_WIDTH = 300;
  const mainShare = 100 * (1 - CLOSE_UP_WIDTH / Math.max(1024, innerWidth));

  /** The address follows when the picture is there; while it plays, when it rests. */
  const ADDRESS_DELAY = 150;

  const view = $derived(VIEWS.find(({ name }) => page.url.pathname === `/${name}`) ?? null);
  const hasCloseUp = $derived(view?.contract === 'close-up');
  const beside = $derived(view?.beside?.isWanted(bench) ? view.beside : null);

  $effect(() => {
    bench.dialogs.showsContract = view?.contract !== undefined;
  });

  function fold(state: boolean): void {
    isFolded = state;
    localStorage.setItem('umwelt-close-up', state ? 'folded' : 'open');
  }

  /** The query of a way that begins with all that is in view: what changes on the way stays. */
  let carried: string | null = page.url.search;
  beforeNavigate(({ to }) => {
    carried = to && to.url.search === bench.address.query ? to.url.search : null;
  });
  afterNavigate(({ to }) => {
    isReady = true;
    if (to && to.url.search !== carried) bench.address.take(to.url.searchParams);
    carried = null;
  });

  $effect(() => {
    const { query } = bench.address;
    if (!isReady || bench.playback.isPlaying || query === location.search) return;
    const timer = setTimeout(() => replaceState(`${location.pathname}${query}`, {}), ADDRESS_DELAY);
    return () => clearTimeout(timer);
  });

  const open = (name: string) => void goto(`/${name}${bench.address.query}`);
  const actions = actionsOf({
    bench,
    open,
    palette: () => void seek(null),
    find: () => void seek('underlying'),
    exports: () => (showsExport = true),
    help: () => (showsKeys = true),
    theme: () => theme.toggle(),
    bases: () => (showsBases = true),
  });
  $effect(() => listenForKeys(actions));
</script>

<svelte:head>
  <title>{bench.context.symbol ? `${bench.context.symbol} · ` : ''}{view ? `${view.title} · ` : ''}Umwelt</title>
</svelte:head>

{#snippet unfold()}
  <button
    class="panel cursor-pointer items-center pt-3 text-soft hover:text-ink {beside ? 'h-10' : 'flex-1'}"
    title="Open the close-up"
    aria-label="Open the close-up"
    onclick={() => fold(false)}
  >
    <PanelRightOpen size={16} />
  </button>
{/snippet}
{#snippet closeUp()}
  {#if bench.playback.frame}<PlayedContract />{:else}<CloseUp
      onfold={() => fold(true)}
      onbases={() => (showsBases = true)}
    />{/if}
{/snippet}
{#snippet below()}
  {#if beside}
    {#await beside.load() then { default: Beside }}<Beside />{/await}
  {/if}
{/snippet}
{#snippet aside()}
  <div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
    {#if isFolded}{@render unfold()}{/if}
    <Split
      id="beside"
      direction="vertical"
      label="Height of the close-up"
      size={50}
      first={isFolded ? null : closeUp}
      second={beside ? below : null}
    />
  </div>
{/snippet}

<div class="flex h-screen min-w-[1024px]">
  <Rail />
  <div class="flex min-w-0 flex-1 flex-col">
    <TopBar onfind={() => void seek(null)} onbases={() => (showsBases = true)} />
    <Tideline />
    <main class="flex min-h-0 flex-1 gap-2 p-2">
      <Split
        id="close-up"
        direction="horizontal"
        label="Width of the view"
        size={mainShare}
        least={[50, 15]}
        first={children}
        second={hasCloseUp && (!isFolded || beside) ? aside : null}
      />
      {#if hasCloseUp && isFolded && !beside}
        <div class="flex w-7 flex-none flex-col">{@render unfold()}</div>
      {/if}
    </main>
    <BottomLine onkeys={() => (showsKeys = true)} onexport={() => (showsExport = true)} />
  </div>
</div>

<Tips />
<Keys bind:isOpen={showsKeys} {actions} />
{#if Palette && sought}
  <Palette bind:isOpen={() => sought !== null, (isOpen) => !isOpen && (sought = null)} {actions} {open} {...sought} />
{/if}
<BasisDialog bind:isOpen={showsBases} />
<ExportDialog bind:isOpen={showsExport} {shown} />
<WorkingDialog work={bench.dialogs.work} onclose={() => (bench.dialogs.work = null)} />
{#if bench.dialogs.ticket}
  {#await import('$lib/book/TicketDialog.svelte') then { default: TicketDialog }}
    <TicketDialog ticket={bench.dialogs.ticket as Ticket} onclose={() => (bench.dialogs.ticket = null)} />
  {/await}
{/if}
{#if notices.areWanted}
  {#await import('$lib/ui/Notices.svelte') then { default: Notices }}<Notices />{/await}
{/if}

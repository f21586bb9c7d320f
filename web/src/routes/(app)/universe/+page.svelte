<script lang="ts">
  import { UNDERLYING_KINDS } from '@umwelt/core';
  import { goto } from '$app/navigation';
  import { offerTable } from '$lib/exports';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import type { CheckedFormula } from '@umwelt/core';
  import {
    ColumnMenu,
    Conditions,
    FormulaInput,
    orderOf,
    Narrowing,
    PeersPanel,
    RANKED_SESSIONS,
    ScreenDesk,
    ScreenMenu,
    UniverseTable,
    WallPanel,
  } from '$lib/views/universe';
  import { useWorkbench, useParams } from '$lib/state';
  import { MOST_COLUMNS, MOST_CONDITIONS, PARAMS, WALLS } from '$lib/views/universe/params';
  import { Toggles } from '$lib/ui';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const desk = new ScreenDesk(bench);

  function add({ kind, source }: CheckedFormula): void {
    const { show, keep } = params;
    if (kind === 'truth') {
      if (keep.length < MOST_CONDITIONS && !keep.includes(source)) params.keep = [...keep, source];
    } else if (show.length < MOST_COLUMNS && !show.includes(source)) params.show = [source, ...show];
  }

  /** Whether the heads have room for a least and a most. */
  let hasLimits = $state(false);

  offerTable(
    'universe',
    () => 'Universe, in the columns and the order in view',
    () => desk.table(),
    () => `${location.origin}${desk.address()}`,
  );

  function open(symbol: string): void {
    bench.address.choose(symbol);
    void goto(`/surface${bench.address.query}`);
  }

  /** Words rise, numbers fall. */
  const BY_SYMBOL = 'symbol|rising';
  const isWall = $derived(params.wall !== 'none' && params.wall !== 'peers');
  const held = $derived(desk.values?.answer.looked ?? 0);
  const WALL_NAMES = {
    none: 'table',
    peers: 'peers',
    vols: 'vols',
    term: 'term',
    skew: 'skew',
    cone: 'cone',
    price: 'price',
  } as const;
  const WALL_TITLES = {
    none: 'all measures as a table',
    peers: 'those that move like the underlying in view',
    vols: 'iv30 against hv20 over 120 sessions, a chart each',
    term: 'vols at the money from 7 to 360 days, a chart each',
    skew: 'the curve of the expiry nearest to 30 days, a chart each',
    cone: 'historical vols by window with the term structure over them, a chart each',
    price: 'prices over 120 sessions with the steps of the expected moves, a chart each',
  } as const;
</script>

<section class="panel flex-1" aria-label="Universe">
  <header class="flex items-baseline gap-2.5 px-3 pt-2.5 pb-1.5">
    <h2 class="text-[15px] font-bold">Universe</h2>
    {#if desk.values}
      <span class="text-soft">
        {desk.rows.length === held
          ? figures.counted(held, 'underlying')
          : `${figures.count(desk.rows.length)} of ${figures.counted(held, 'underlying')}`} · rank and percentile of iv30
        over {RANKED_SESSIONS} sessions{desk.short > 0 ? ` (fewer are held of ${figures.count(desk.short)})` : ''}, hv20
        Yang–Zhang
      </span>
    {/if}
    <span class="flex-1"></span>
    {#if isWall}
      <label class="text-[12px] text-soft"
        >by <select
          class="choice max-w-28"
          aria-label="Order of the wall"
          value={orderOf(params.sort).key === 'symbol' ? BY_SYMBOL : orderOf(params.sort).key}
          onchange={(event) => (params.sort = event.currentTarget.value)}
        >
          <option value={BY_SYMBOL}>symbol</option>
          {#each desk.columns.filter(({ formula, look }) => formula !== null && look !== 'line') as { key, label } (key)}
            <option value={key}>{label}</option>
          {/each}
        </select></label
      >
    {/if}
    {#if params.wall === 'vols'}
      <Toggles
        label="Foot of the wall"
        options={['volume']}
        isOn={() => params.hasVolume}
        titles={() => 'option volume by session, each on a scale of its own'}
        onchoose={() => (params.hasVolume = !params.hasVolume)}
      />
    {/if}
    {#if isWall && params.wall !== 'price'}
      <Toggles
        label="Axes of the wall"
        options={[true, false]}
        words={(isShared) => (isShared ? 'shared axes' : 'own axes')}
        titles={(isShared) => (isShared ? 'one logarithmic scale for all' : 'each on a scale of its own')}
        bind:value={params.isShared}
      />
    {/if}
    <Toggles
      label="Table, peers or wall"
      options={WALLS}
      words={(wall) => WALL_NAMES[wall]}
      titles={(wall) => WALL_TITLES[wall]}
      bind:value={params.wall}
    />
  </header>
  {#if params.wall !== 'peers'}
    <div class="flex items-start gap-2 px-3 pb-1 text-[12px]">
      <input
        class="w-32 rounded-[5px] border border-line bg-panel px-2 py-0.5 text-[12px]"
        placeholder="name or symbol"
        aria-label="Name or symbol"
        bind:value={desk.sought}
      />
      <Toggles
        label="Kinds"
        options={UNDERLYING_KINDS}
        isOn={(kind) => params.kinds.includes(kind)}
        onchoose={(kind) =>
          (params.kinds = UNDERLYING_KINDS.filter((other) => (other === kind) !== params.kinds.includes(other)))}
      />
      <Toggles
        label="Heads"
        options={['limits']}
        isOn={() => hasLimits}
        titles={() => 'a least and a most under each head'}
        onchoose={() => (hasLimits = !hasLimits)}
      />
      <ColumnMenu />
      <Narrowing {desk} />
      <ScreenMenu />
    </div>
    <div class="flex items-start gap-2 px-3 pb-1.5 text-[12px]">
      <div class="w-[460px] flex-none"><FormulaInput onadd={add} /></div>
      <Conditions {desk} />
    </div>
  {/if}
  {#if desk.problem && desk.values}<p class="m-0 px-3 pb-1 text-[12px] text-loss" role="alert">{desk.problem}</p>{/if}
  {#if !desk.values}
    <p class="p-6 text-center {desk.problem ? 'text-loss' : 'text-soft'}" role={desk.problem ? 'alert' : undefined}>
      {desk.problem ?? 'Loading …'}
    </p>
  {:else if held === 0}
    <p class="mx-auto max-w-lg p-10 text-center text-soft">
      No underlying is held yet. Import files in the <a class="link" href="/data">Data</a> view, or with
      <code class="figures">npm run import -- FILE…</code>: first underlyings, then rates, dividends, bars and chains.
    </p>
  {:else if params.wall === 'peers'}
    <PeersPanel onopen={open} />
  {:else if params.wall !== 'none'}
    <WallPanel rows={desk.rows} wall={params.wall} onopen={open} />
  {:else}
    <UniverseTable {desk} {hasLimits} onopen={open} />
  {/if}
  {#if desk.sentence && params.wall !== 'peers'}<div class="p-2.5">
      <Sentence sentence={desk.sentence} />
    </div>{/if}
</section>

<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { figures, shortDay } from '$lib/formats';
  import { Loaded, useWorkbench, useParams } from '$lib/state';
  import type { ScreenRow } from './results';
  import {
    bandPath,
    columnsPath,
    extentOf,
    loadWall,
    logarithmic,
    rangeOf,
    sharedRange,
    LEFT_OUT,
    smallPath,
    wallTable,
    widened,
    type Hung,
    type SmallChart,
  } from './wall';
  import { PARAMS } from './params';

  /**
   * @prop rows the underlyings, in their order
   * @prop onopen called with the symbol of one that is chosen
   */
  let { rows, wall, onopen }: { rows: readonly ScreenRow[]; wall: Hung; onopen: (symbol: string) => void } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const MOST = 60;
  const BOX = { width: 176, height: 72 };

  const shown = $derived(rows.slice(0, MOST));
  /** In the order of the alphabet, so that another order of the rows asks for nothing new. */
  const wanted = $derived(
    shown
      .map(({ symbol }) => symbol)
      .sort()
      .join(),
  );
  const hung = new Loaded(() => {
    const { asof } = bench.context;
    const { hasVolume } = params;
    const asked = wall;
    void bench.market.edition;
    if (wanted === '') return undefined;
    return loadWall(asked, asof, wanted.split(','), hasVolume).then((found) => ({ wall: asked, found }));
  });

  const bySymbol = $derived(hung.value?.wall === wall ? hung.value.found : null);
  /** Prices of different things share no axis; vols do on a logarithmic one. */
  const isShared = $derived(params.isShared && wall !== 'price');
  const NONE: SmallChart = { lines: [], bands: [] };
  const charts = $derived(
    shown.map((row) => {
      const chart = bySymbol?.get(row.symbol) ?? NONE;
      const own = rangeOf([chart]);
      const drawn = isShared ? logarithmic(chart) : chart;
      return { row, chart, drawn, own, extent: extentOf(chart), range: own && widened(own) };
    }),
  );
  const shared = $derived(isShared ? sharedRange(charts.map(({ drawn }) => drawn)) : null);
  const write = (value: number) => (wall === 'price' ? figures.fixed(value, value < 1000 ? 2 : 0) : figures.vol(value));
  const COLORS = {
    implied: 'var(--implied)',
    realized: 'var(--realized)',
    ink: 'var(--ink)',
    soft: 'var(--soft)',
  } as const;

  offerTable(
    'wall',
    () => 'Wall, the lines of all charts',
    () => (bySymbol ? wallTable(charts.map(({ row, chart }) => ({ symbol: row.symbol, chart }))) : null),
  );
</script>

<div class="min-h-0 flex-1 overflow-auto bg-panel will-change-transform">
  {#if hung.problem}
    <p class="p-6 text-center text-loss" role="alert">{hung.problem}</p>
  {:else if shown.length === 0}
    <p class="p-6 text-center text-soft">No underlying is left. Remove a condition, or look for something else.</p>
  {:else if !bySymbol}
    <p class="p-6 text-center text-soft">Loading …</p>
  {:else}
    <ul
      class="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(186px,1fr))] gap-2 p-0 px-3 pb-3"
      aria-label="Wall"
    >
      {#each charts as { row, chart, drawn, own, extent, range: alone } (row.symbol)}
        {@const range = shared ?? alone}
        <li>
          <button
            class="w-full cursor-pointer rounded border p-1.5 text-left hover:bg-band {row.symbol ===
            bench.context.symbol
              ? 'border-focus'
              : 'border-line'}"
            title={row.name}
            onclick={() => onopen(row.symbol)}
          >
            <span class="flex items-baseline gap-1.5 text-[12px]">
              <b>{row.symbol}</b><span class="flex-1 truncate text-[11px] text-soft"
                >{chart.words ? shortDay(chart.words) : row.name}</span
              >
              {#if own}<span class="figures text-[10.5px]! text-soft">{write(own[0])}–{write(own[1])}</span>{/if}
            </span>
            <svg viewBox="0 0 {BOX.width} {BOX.height}" class="mt-1 block w-full" aria-hidden="true">
              {#if range && extent}
                {@const box = { ...BOX, range, extent }}
                {#if chart.columns}<path d={columnsPath(chart.columns, BOX)} fill="var(--line)" />{/if}
                {#each drawn.bands as band, i (i)}
                  <path d={bandPath(band, box)} fill={COLORS[band.color]} fill-opacity="0.16" />
                {/each}
                {#each drawn.lines as line, i (i)}
                  <path
                    d={smallPath(line, box)}
                    fill="none"
                    stroke={COLORS[line.color]}
                    stroke-width="1.3"
                    stroke-dasharray={line.isDashed ? '3 2' : 'none'}
                  />
                {/each}
              {/if}
            </svg>
            {#if !range}<span class="block text-[11px] text-soft">nothing is held</span>{/if}
          </button>
        </li>
      {/each}
    </ul>
    {#if shared}<p class="m-0 px-3 pb-2 text-[12px] text-soft" data-testid="shared-axis">
        One logarithmic axis for all, from {figures.vol(Math.exp(shared[0]))} to {figures.vol(Math.exp(shared[1]))} points:
        the outermost
        {figures.percent(LEFT_OUT, 0)} of the values at either end is cut off.
      </p>{/if}
    {#if rows.length > MOST}<p class="m-0 px-3 pb-2 text-[12px] text-soft">
        The first {MOST} of {figures.count(rows.length)}, in the order of the table.
      </p>{/if}
  {/if}
</div>

<script lang="ts">
  import { figures } from '$lib/formats';
  import { useWorkbench, type UniverseRow, type Wall } from '$lib/state';
  import { askScreen, type ScreenAnswer } from './results';
  import { logarithmic, rangeOf, smallPath, WALL_SOURCES, wallLines, widened } from './wall';

  /**
   * @prop rows the underlyings, in their order
   * @prop onopen called with the symbol of one that is chosen
   */
  let {
    rows,
    wall,
    onopen,
  }: { rows: readonly UniverseRow[]; wall: Exclude<Wall, 'none'>; onopen: (symbol: string) => void } = $props();

  const bench = useWorkbench();
  const MOST = 60;
  const BOX = { width: 176, height: 72 };

  let answer = $state.raw<{ wall: Wall; found: ScreenAnswer } | null>(null);
  let problem = $state<string | null>(null);
  $effect(() => {
    const { series, columns } = WALL_SOURCES[wall];
    const wanted = wall;
    void bench.edition;
    let isCurrent = true;
    askScreen(bench.context.asof, columns, [], series).then(
      (found) => {
        if (!isCurrent) return;
        answer = { wall: wanted, found };
        problem = null;
      },
      (error: Error) => {
        if (isCurrent) problem = error.message;
      },
    );
    return () => (isCurrent = false);
  });

  const bySymbol = $derived(new Map(answer?.wall === wall ? answer.found.rows.map((row) => [row.symbol, row]) : []));
  /** Prices of different things share no axis; vols do on a logarithmic one. */
  const isShared = $derived(bench.context.isShared && wall !== 'price');
  const charts = $derived(
    rows.slice(0, MOST).map((row) => {
      const held = bySymbol.get(row.symbol);
      const lines = held ? wallLines(wall, held) : [];
      const own = rangeOf(lines);
      return { row, lines: isShared ? logarithmic(lines) : lines, words: own, range: own && widened(own) };
    }),
  );
  const shared = $derived(isShared ? rangeOf(charts.flatMap(({ lines }) => lines)) : null);
  const COLORS = {
    vols: ['var(--implied)', 'var(--realized)'],
    term: ['var(--implied)'],
    price: ['var(--ink)'],
  } as const;
  const write = (value: number) => (wall === 'price' ? figures.fixed(value, 2) : figures.vol(value));
</script>

{#if problem}
  <p class="p-6 text-center text-loss" role="alert">{problem}</p>
{:else if bySymbol.size === 0}
  <p class="p-6 text-center text-soft">Loading …</p>
{:else}
  <ul class="m-0 grid list-none grid-cols-[repeat(auto-fill,minmax(186px,1fr))] gap-2 p-0 px-3 pb-3" aria-label="Wall">
    {#each charts as { row, lines, words, range: own } (row.symbol)}
      {@const range = shared ?? own}
      <li>
        <button
          class="w-full cursor-pointer rounded border p-1.5 text-left hover:bg-band {row.symbol === bench.context.symbol
            ? 'border-focus'
            : 'border-line'}"
          title={row.name}
          onclick={() => onopen(row.symbol)}
        >
          <span class="flex items-baseline gap-1.5 text-[12px]">
            <b>{row.symbol}</b><span class="flex-1 truncate text-[11px] text-soft">{row.name}</span>
            {#if words}<span class="figures text-[10.5px]! text-soft">{write(words[0])}–{write(words[1])}</span>{/if}
          </span>
          <svg viewBox="0 0 {BOX.width} {BOX.height}" class="mt-1 block w-full" aria-hidden="true">
            {#if range}
              {#each lines as line, i (i)}
                <path
                  d={smallPath(line, range, BOX)}
                  fill="none"
                  stroke={COLORS[wall][i]}
                  stroke-width="1.3"
                  stroke-dasharray={i === 1 ? '3 2' : 'none'}
                />
              {/each}
            {/if}
          </svg>
          {#if !range}<span class="block text-[11px] text-soft">nothing is held</span>{/if}
        </button>
      </li>
    {/each}
  </ul>
  {#if rows.length > MOST}<p class="m-0 px-3 pb-2 text-[12px] text-soft">
      The first {MOST} of {figures.count(rows.length)}, in the order of the table.
    </p>{/if}
{/if}

<script lang="ts">
  import { offerTable } from '$lib/exports';
  import { figures, shortDay } from '$lib/formats';
  import { monthStarts } from '$lib/ui';
  import { useWorkbench } from '$lib/state';
  import { heldTable, shadeOf, type Holdings } from './imports';

  const bench = useWorkbench();

  let { holdings }: { holdings: Holdings | null } = $props();

  const HEAD = 14;
  const LABEL_APART = 46;
  const SHADES = ['transparent', 'var(--loss)', 'var(--depth-1)', 'var(--depth-3)', 'var(--depth-4)'];
  const LEGEND = ['under 50', 'to 70', 'to 85', 'over'];

  let width = $state(300);
  let pointed = $state<{ symbol: string; at: number } | null>(null);

  const sessions = $derived(holdings?.sessions ?? []);
  const step = $derived(sessions.length > 0 ? width / sessions.length : 1);
  const xs = $derived(sessions.map((_, i) => i * step));
  const labels = $derived(monthStarts(sessions, xs, LABEL_APART));
  const said = $derived.by(() => {
    const row = pointed && holdings?.underlyings.find(({ symbol }) => symbol === pointed!.symbol);
    if (!row || !pointed) return null;
    const day = sessions[pointed.at]!;
    const moments = row.moments[pointed.at]!;
    if (moments === 0) return `${row.symbol}, ${shortDay(day, '')}: nothing held`;
    const [contracts, usable] = [row.contracts[pointed.at]!, row.usable[pointed.at]!];
    const quality = Math.round(row.quality[pointed.at] ?? NaN);
    return `${row.symbol}, ${shortDay(day, '')}: ${figures.counted(moments, 'snapshot')}, ${figures.count(usable)} of ${figures.counted(contracts, 'contract')} usable, quality ${figures.count(quality)}`;
  });
  const holes = $derived(
    (holdings?.underlyings ?? []).flatMap(({ symbol, holes }) =>
      holes.map((day) => `${symbol} on ${shortDay(day, '')}`),
    ),
  );
  const MOST_NAMED = 3;

  function point(event: PointerEvent, symbol: string): void {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    pointed = { symbol, at: Math.max(0, Math.min(sessions.length - 1, Math.floor((event.clientX - box.left) / step))) };
  }

  offerTable(
    'held',
    () => 'What is held, by underlying and session',
    () => (holdings ? heldTable(holdings) : null),
  );

  /** Sessions of one shade that follow each other are one rectangle. */
  function runs({ moments, quality }: Holdings['underlyings'][number]): { from: number; to: number; shade: number }[] {
    const found: { from: number; to: number; shade: number }[] = [];
    moments.forEach((count, i) => {
      const shade = count === 0 ? 0 : shadeOf(quality[i] ?? null);
      const last = found.at(-1);
      if (last?.shade === shade) last.to = i + 1;
      else found.push({ from: i, to: i + 1, shade });
    });
    return found.filter(({ shade }) => shade > 0);
  }
</script>

<section class="panel flex-1" aria-label="Held">
  <header class="flex items-baseline gap-2.5 px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold">Held</h2>
    {#if holdings && sessions.length > 0}
      <span class="min-w-0 truncate text-soft">
        {figures.counted(holdings.underlyings.length, 'underlying')}, {figures.counted(sessions.length, 'session')}
      </span>
      <span class="flex-1"></span>
      <span class="flex items-center gap-2.5 text-[11px] whitespace-nowrap text-soft">
        quality
        {#each LEGEND as words, i (words)}
          <span><span class="inline-block size-2.5" style="background: {SHADES[i + 1]}"></span> {words}</span>
        {/each}
      </span>
    {/if}
  </header>
  {#if !holdings}
    <p class="p-6 text-center text-soft">Loading …</p>
  {:else if holdings.underlyings.length === 0}
    <p class="p-6 text-center text-soft">Nothing is held yet.</p>
  {:else}
    <div class="min-h-0 flex-1 overflow-auto px-3" data-testid="held">
      <div class="sticky top-0 z-10 flex bg-panel">
        <span class="w-16 flex-none"></span>
        <svg class="min-w-0 flex-1" height={HEAD}>
          {#each labels as { at, day } (day)}
            <text x={xs[at]} y={HEAD - 4} fill="var(--soft)" class="figures" style="font-size: 10px"
              >{shortDay(day).split(' ')[1]}</text
            >
          {/each}
        </svg>
        <span class="figures w-16 flex-none text-right text-[10px]! text-soft">prints</span>
      </div>
      {#each holdings.underlyings as row, i (row.symbol)}
        <div class="flex h-[15px] items-center {row.symbol === bench.context.symbol ? 'bg-band' : ''}">
          <button
            class="figures w-16 flex-none cursor-pointer truncate text-left text-[11px]! hover:text-implied"
            title="{row.name}: see its quality"
            aria-pressed={row.symbol === bench.context.symbol}
            onclick={() => bench.address.choose(row.symbol)}>{row.symbol}</button
          >
          <div class="min-w-0 flex-1">
            {#if i === 0}<div bind:clientWidth={width}></div>{/if}
            <!-- svelte-ignore a11y_no_static_element_interactions -->
            <svg
              class="block"
              {width}
              height="11"
              onpointermove={(event) => point(event, row.symbol)}
              onpointerleave={() => (pointed = null)}
            >
              {#each runs(row) as { from, to, shade } (from)}
                <rect x={from * step} width={Math.max(0.5, (to - from) * step)} height="11" fill={SHADES[shade]} />
              {/each}
              {#each row.holes as day (day)}
                <path
                  d="M{xs[sessions.indexOf(day)]! + step / 2} 0v11"
                  stroke="var(--loss)"
                  stroke-width="2"
                  stroke-dasharray="2 1"
                />
              {/each}
            </svg>
          </div>
          <span class="figures w-16 flex-none text-right text-[11px]! text-soft"
            >{row.prints > 0 ? figures.count(row.prints) : ''}</span
          >
        </div>
      {/each}
    </div>
    <p class="sentence m-2" data-testid="held-sentence">
      {#if said}{said}.
      {:else if holes.length === 0}No session is missing between the first and the last of any underlying.
      {:else}{figures.counted(holes.length, 'session')} missing: {holes.slice(0, MOST_NAMED).join(', ')}{holes.length >
        MOST_NAMED
          ? `, and ${holes.length - MOST_NAMED} more`
          : ''}.
      {/if}
    </p>
  {/if}
</section>

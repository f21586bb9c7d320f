<script lang="ts">
  import { GRID_SCALES } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures } from '$lib/formats';
  import { numberColumns, tabbed, type DataTable } from '$lib/tables';
  import { KeyArea, NumberField, Toggles } from '$lib/ui';
  import type { BookDesk } from './desk.svelte';
  import { MOST_AHEAD, REACHES } from './params';

  /** What could happen: profit by moves of all prices and of all vols, each cell opened into its positions. */
  let { desk }: { desk: BookDesk } = $props();

  const scenario = $derived(desk.scenario);
  /** The cell that is opened: its row and its column; the worst one unless one was. */
  let opened = $state<readonly [number, number] | null>(null);
  const worstAt = $derived.by((): readonly [number, number] | null => {
    if (!scenario) return null;
    const { worst, volShifts, moves } = scenario;
    return [volShifts.indexOf(worst.volShift), moves.indexOf(worst.move)];
  });
  const cell = $derived(opened ?? worstAt);

  const SCALE_WORDS = { parallel: 'parallel', root: '√(30/T)', along: 'with price' } as const;
  const SCALE_TITLES = {
    parallel: 'all vols by the same points',
    root: 'points of vol × √(30/T)',
    along: 'beside that, vols move along with the price as they have done over the year',
  } as const;

  const WRITTEN_IN = 1000;
  /** Losses and gains are shaded by their rank, so that one corner does not wash out the rest. */
  const ranks = $derived.by(() => {
    const all = (scenario?.pnl.flat() ?? []).toSorted((a, b) => a - b);
    return (pnl: number) => {
      const own = all.filter((one) => Math.sign(one) === Math.sign(pnl));
      if (pnl === 0 || own.length === 0) return 0;
      const under = own.filter((one) => Math.abs(one) <= Math.abs(pnl)).length;
      return under / own.length;
    };
  });
  const shadeOf = (pnl: number) =>
    pnl === 0
      ? ''
      : pnl > 0
        ? `background: color-mix(in srgb, var(--gain) ${Math.round(4 + 22 * ranks(pnl))}%, var(--panel))`
        : `background: repeating-linear-gradient(-45deg, transparent 0 4px, color-mix(in srgb, var(--loss) ${Math.round(8 + 42 * ranks(pnl))}%, transparent) 4px 5px)`;
  const isAt = (at: readonly [number, number] | null, i: number, j: number) => at?.[0] === i && at[1] === j;
  const thousands = (pnl: number) => figures.signed(pnl / WRITTEN_IN, 1);
  const moveWords = (move: number) => figures.signed(100 * move, 0);
  const volWords = (shift: number) => figures.signed(100 * shift, 0);

  /** What the open cell is made of, the largest first. */
  const parts = $derived.by(() => {
    if (!scenario || !cell) return [];
    const [i, j] = cell;
    return scenario.positions
      .map(({ id, pnl }) => ({ id, name: desk.nameOf(id), pnl: pnl[i]![j]! }))
      .filter(({ pnl }) => Math.round(pnl) !== 0)
      .sort((a, b) => Math.abs(b.pnl) - Math.abs(a.pnl));
  });

  const table = (): DataTable => ({
    columns: [
      { name: 'vol', type: 'number' },
      ...numberColumns((scenario?.moves ?? []).map((move) => `price ${moveWords(move)} %`)),
    ],
    rows: (scenario?.pnl ?? []).map((row, i) => [scenario!.volShifts[i]!, ...row]),
  });
  offerTable(
    'book-scenarios',
    () => `Scenarios of ${desk.book?.name ?? 'the book'}`,
    () => (scenario ? table() : null),
  );
</script>

<section class="panel min-h-0 flex-1" aria-label="Scenarios">
  <header class="flex flex-none flex-wrap items-center gap-x-2 gap-y-1 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Scenarios</h2>
    <span class="min-w-0 flex-1 truncate text-[12px] text-soft">thousands, by % and points</span>
    <Toggles label="How far" options={REACHES} bind:value={desk.params.reach} />
    <select
      class="choice"
      aria-label="How vols move"
      title={SCALE_TITLES[desk.params.gridScale]}
      bind:value={desk.params.gridScale}
    >
      {#each GRID_SCALES as one (one)}<option value={one}>{SCALE_WORDS[one]}</option>{/each}
    </select>
    <label class="flex flex-none items-center gap-1 text-[11px] text-soft"
      >in <NumberField
        label="Days ahead of the scenarios"
        bind:value={desk.params.gridAhead}
        min={0}
        max={MOST_AHEAD}
        step={1}
        class="w-10"
      /> d</label
    >
  </header>
  {#if scenario}
    <KeyArea label="Profit by price and vol" class="min-h-0 flex-1 overflow-auto px-2" copied={() => tabbed(table())}>
      <table class="h-full w-full border-separate border-spacing-px" data-testid="book-grid">
        <thead>
          <tr>
            <th><span class="sr-only">vol</span></th>
            {#each scenario.moves as move (move)}<th class="figures text-right text-[11px]! font-normal text-soft"
                >{moveWords(move)}</th
              >{/each}
          </tr>
        </thead>
        <tbody>
          {#each scenario.pnl as row, i (i)}
            <tr>
              <th class="figures text-right text-[11px]! font-normal text-soft">{volWords(scenario.volShifts[i]!)}</th>
              {#each row as pnl, j (j)}
                <td
                  class="figures cursor-pointer px-1 text-right text-[11px]! {isAt(cell, i, j)
                    ? 'outline-2 outline-ink'
                    : ''} {isAt(worstAt, i, j) ? 'font-semibold' : ''}"
                  style={shadeOf(pnl)}
                  ><button
                    class="w-full cursor-pointer text-right"
                    title="what it is made of"
                    aria-pressed={isAt(cell, i, j)}
                    onclick={() => (opened = [i, j])}>{thousands(pnl)}</button
                  ></td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </KeyArea>
    <p class="m-0 flex-none px-3 py-1.5 text-[12px] leading-snug" data-testid="book-worst">
      {#if cell}
        {@const [i, j] = cell}
        <b>{isAt(worstAt, i, j) ? 'Worst' : 'Here'}: {figures.signed(scenario.pnl[i]![j]!, 0)}</b>
        <span class="text-soft">at {moveWords(scenario.moves[j]!)} % and vol {volWords(scenario.volShifts[i]!)}:</span>
        {#each parts.slice(0, 3) as { id, name, pnl }, k (id)}
          <button class="cursor-pointer underline-offset-2 hover:underline" onclick={() => desk.choose(id)}
            >{name}</button
          >
          <span class="figures">{figures.signed(pnl, 0)}</span>{k < parts.length - 1 ? ', ' : '; '}
        {/each}
        {#if parts.length > 3}
          the others <span class="figures"
            >{figures.signed(
              parts.slice(3).reduce((sum, { pnl }) => sum + pnl, 0),
              0,
            )}</span
          >;
        {/if}
        <span class="text-soft"
          >each family at its own worst <span class="figures">{figures.signed(scenario.apart, 0)}</span
          >{scenario.missing > 0 ? `; ${figures.counted(scenario.missing, 'leg')} not known` : ''}</span
        >
        {#if opened}<button class="btn btn-xs" onclick={() => (opened = null)}>the worst</button>{/if}
      {/if}
    </p>
  {:else}
    <p class="m-auto px-4 text-center text-soft" role={desk.scenarioProblem ? 'alert' : undefined}>
      {desk.scenarioProblem ?? 'Working out …'}
    </p>
  {/if}
</section>

<script lang="ts">
  import type { GridCell } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { figures } from '$lib/formats';
  import { useParams, useTheme, useWorkbench } from '$lib/state';
  import { KeyArea } from '$lib/ui';
  import Slider from '$lib/ui/Slider.svelte';
  import BelowTabs from './BelowTabs.svelte';
  import { aheadFigure } from './charts/ahead';
  import type { HedgeDesk } from './desk.svelte';
  import { LEFTS, MOST_AHEAD, PARAMS } from './params';
  import { amount, columnOf, stayWithin } from './plan';

  /** How it holds: what is gained some days ahead and the delta of now along the price, and what is left by price and vol. */
  let { desk }: { desk: HedgeDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const ahead = $derived(desk.ahead);
  const band = $derived(params.bands.delta ?? 0);
  const aim = $derived(params.aims.delta ?? 0);

  /** Where the delta of now leaves its band; null where nothing is said of a band. */
  const within = (of: 'before' | 'after') => {
    const found = ahead?.[of];
    if (!found || band <= 0) return null;
    return stayWithin(found.x, columnOf(found.curves[1]!, 'delta', desk.multiplier), found.spot, { aim, band });
  };
  const [stays, stayed] = $derived([within('after'), within('before')]);
  /** Between which prices, in words. */
  function rangeWords(range: ReturnType<typeof within>): string {
    if (!range) return 'nowhere';
    const { from, to } = range;
    if (from === null && to === null) return 'at all prices shown';
    if (from === null) return `under ≈ ${figures.fixed(to, 0)}`;
    return to === null ? `over ≈ ${figures.fixed(from, 0)}` : `≈ ${figures.fixed(from, 0)} … ${figures.fixed(to, 0)}`;
  }

  function figureOf(quantity: 'pnl' | 'delta', at: number) {
    if (!ahead) return null;
    const { before, after, other } = ahead;
    const due = quantity === 'delta' && stays ? [stays.from, stays.to].filter((one) => one !== null) : [];
    return aheadFigure({
      before: { x: before.x, curve: before.curves[at]! },
      after: { x: after.x, curve: after.curves[at]! },
      other: other && { x: other.x, curve: other.curves[at]! },
      ...{ quantity, times: desk.multiplier, price: after.spot, due, decimals, tokens: theme.tokens },
      ...(quantity === 'delta' ? { band, aim } : { band: 0, aim: 0 }),
    });
  }
  const profit = $derived(figureOf('pnl', 0));
  const delta = $derived(figureOf('delta', 1));

  /** Two deviations on either side are what one looks at. */
  const COLUMNS = [1, 2, 3, 4, 5];
  /** Of a cell of a grid, in the unit of the position. */
  const leftOf = (cell: GridCell) =>
    (params.leftOver === 'profit' ? cell.pnl : cell[params.leftOver]) * desk.multiplier;
  const write = (value: number) => (params.leftOver === 'profit' ? figures.signed(value, 0) : amount(value));
  /** Hedges whose grids stand in a cell, one over the other. */
  const grids = $derived(
    (ahead ? [ahead.after, ...(ahead.other ? [ahead.other] : []), ahead.before] : []).flatMap(({ grid }) =>
      grid ? [grid] : [],
    ),
  );
  const stress = $derived(ahead?.after.evaluation.stress ?? null);
  const copied = () =>
    [
      ['vol', 'hedge', ...COLUMNS.map((at) => `${stress!.moves[at]} σ`)],
      ...stress!.volFactors.flatMap((factor, i) =>
        grids.map((grid, k) => [
          factor,
          k === 0 ? 'after' : k === grids.length - 1 ? 'before' : 'the other',
          ...COLUMNS.map((at) => leftOf(grid[i]![at]!)),
        ]),
      ),
    ]
      .map((row) => row.join('\t'))
      .join('\n');
  const isGain = (value: number) => params.leftOver !== 'profit' || value >= 0;
</script>

<div class="flex min-h-0 min-w-0 flex-1 gap-2">
  <section class="panel min-h-0 min-w-0 flex-1" aria-label="Profit ahead">
    <header class="flex flex-none items-center gap-2 px-3 pt-2">
      <BelowTabs {desk} />
      <span class="flex-none text-[12px] whitespace-nowrap text-soft" data-testid="hedge-ahead"
        >in {figures.counted(params.ahead, 'day')}</span
      >
      <Slider
        label="Days ahead"
        bind:value={params.ahead}
        min={0}
        max={MOST_AHEAD}
        step={1}
        color="target"
        class="min-w-0 flex-1"
      />
    </header>
    {#if profit}<Chart figure={profit} name="hedge-profit" label="Profit before and after the trades" />{:else}<p
        class="m-auto px-4 text-center text-soft"
      >
        {desk.hasLegs ? (desk.missing ?? desk.problem ?? 'Nothing is traded.') : 'What is typed has no price.'}
      </p>{/if}
  </section>
  <section class="panel min-h-0 min-w-0 flex-1" aria-label="Delta along the price">
    <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
      <h2 class="text-[15px] font-bold">Delta</h2>
      <span
        class="min-w-0 truncate text-[12px] text-soft"
        title={band > 0
          ? `within its band ${rangeWords(stays)}; before ${rangeWords(stayed)}`
          : 'a band for delta says when the next trade is due'}
        data-testid="hedge-due"
        >{band > 0
          ? `within ±${figures.fixed(band, 0)} ${rangeWords(stays)}`
          : 'now; a band says when a trade is due'}</span
      >
    </header>
    {#if delta}<Chart figure={delta} name="hedge-delta" label="Delta before and after the trades" />{:else}<p
        class="m-auto text-soft"
      >
        –
      </p>{/if}
  </section>
  <section class="panel min-h-0 min-w-0 flex-[1.3]" aria-label="What is left">
    <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
      <h2 class="text-[15px] font-bold whitespace-nowrap">What is left</h2>
      <select
        class="choice"
        aria-label="What is told by price and vol"
        bind:value={params.leftOver}
        onkeydown={(event) => event.stopPropagation()}
      >
        {#each LEFTS as one (one)}<option value={one}>{one}</option>{/each}
      </select>
      <span
        class="min-w-0 truncate text-[12px] text-soft"
        title="{params.leftOver} of the position by price and vol, in deviations of the first expiry of what is exposed"
        >after over {ahead?.other ? 'the other and before' : 'before'}</span
      >
    </header>
    {#if stress && grids.length > 0}
      <KeyArea label="What is left by price and vol" class="min-h-0 flex-1 overflow-auto" {copied}>
        <table
          class="m-2 h-[calc(100%-1rem)] border-separate border-spacing-0.5 text-[10.5px]"
          data-testid="hedge-left"
        >
          <thead>
            <tr>
              <th class="text-soft"><span class="sr-only">vol</span></th>
              {#each COLUMNS as at (at)}<th class="figures text-right font-normal text-soft"
                  >{figures.signed(stress.moves[at]!, 0)} σ</th
                >{/each}
            </tr>
          </thead>
          <tbody>
            {#each stress.volFactors as factor, i (factor)}
              <tr>
                <th class="figures text-right font-normal whitespace-nowrap text-soft">× {factor}</th>
                {#each COLUMNS as at (at)}
                  {@const value = leftOf(grids[0]![i]![at]!)}
                  <td class="figures px-0.5 text-right text-[10.5px]! leading-tight {isGain(value) ? 'bg-band' : ''}"
                    ><b class={isGain(value) ? '' : 'text-loss'}>{write(value)}</b
                    >{#each grids.slice(1) as grid, k (k)}<br /><span
                        class={k < grids.length - 2 ? 'text-implied' : 'text-soft'}>{write(leftOf(grid[i]![at]!))}</span
                      >{/each}</td
                  >
                {/each}
              </tr>
            {/each}
          </tbody>
        </table>
      </KeyArea>
    {:else}<p class="m-auto text-soft">–</p>{/if}
  </section>
</div>

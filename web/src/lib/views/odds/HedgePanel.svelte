<script lang="ts">
  import { expiryName } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { hedgeFigure } from './charts/hedge';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, nearestIndex, useTheme, useWorkbench } from '$lib/state';
  import { hedgeStraddle, type StraddleHedge } from '$lib/data';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import type { OddsDesk } from './desk.svelte';
  import { hedgeSentence } from './words';
  import { hedgeWork } from './work';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const decimals = $derived(bench.market.decimals);
  const POINTS = 61;
  /** How far prices go, in expected moves. */
  const REACH = 2.5;

  const slice = $derived(desk.slice);
  const price = $derived.by(() => {
    const { shown } = bench.snapshot;
    if (!shown || !slice) return NaN;
    return shown.snapshot.kind === 'future' || !(shown.snapshot.price > 0) ? slice.fit.forward : shown.snapshot.price;
  });
  const move = $derived.by(() => {
    const straddle = slice ? (desk.straddleOf(slice)?.move ?? NaN) : NaN;
    return straddle > 0 ? straddle : (slice?.fit.deviationMove ?? NaN);
  });
  const index = $derived(slice && slice.strike.length > 0 ? nearestIndex(slice.strike, slice.fit.forward) : -1);
  const prices = $derived(
    Array.from({ length: POINTS }, (_, i) => price + REACH * move * ((2 * i) / (POINTS - 1) - 1)).filter(
      (one) => one > 0,
    ),
  );

  const key = $derived(
    [bench.snapshot.shown?.snapshot.symbol, bench.snapshot.shown?.snapshot.asof, slice && expiryName(slice)].join(' '),
  );
  const hedge = new Loaded<{ key: string; found: StraddleHedge | null }>(() => {
    const { shown } = bench.snapshot;
    if (!shown || index < 0 || prices.length === 0) return undefined;
    const wanted = key;
    const { snapshot, basis, terms, quotes } = shown;
    const work = hedgeStraddle(snapshot, desk.at, index, basis, terms, quotes, prices);
    return work.then((found) => ({ key: wanted, found }));
  });
  const current = $derived(hedge.value?.key === key ? hedge.value : null);
  const found = $derived(current?.found ?? null);
  const levels = $derived([price - move, price + move]);

  /** Units held at a price, between the points that were computed. */
  function hedgeAt(at: number): number {
    const points = found?.points ?? [];
    const i = points.findIndex((point) => point.price >= at);
    const [before, after] = [points[i - 1], points[i]];
    if (!after) return points.at(-1)?.hedge ?? NaN;
    if (!before) return after.hedge;
    const share = (at - before.price) / (after.price - before.price);
    return before.hedge + share * (after.hedge - before.hedge);
  }
  const rungs = $derived(
    found
      ? [-2, -1, -0.5, 0, 0.5, 1, 2].map((times) => {
          const at = price + times * move;
          return { times, at, hedge: hedgeAt(at) };
        })
      : [],
  );
  const figure = $derived(
    found ? hedgeFigure({ points: found.points, price, levels, fast: found.fastest, tokens: theme.tokens }) : null,
  );
  const strike = $derived(slice?.strike[index]);

  /** The working of the point that was computed nearest to a price. */
  function openWork(at: number, nearer?: number): void {
    const points = found?.points ?? [];
    const nearest =
      points[
        nearestIndex(
          points.map((point) => point.price),
          at,
        )
      ];
    if (nearest && strike !== undefined && bench.snapshot.shown) {
      bench.dialogs.work = hedgeWork(strike, nearest, bench.snapshot.shown.basis, nearer);
    }
  }

  const HEADS: readonly Head[] = [
    { label: 'price', class: 'static!' },
    { label: 'hold', title: 'units of the underlying that are held', class: 'static!' },
    { label: 'trade', title: 'from the rung nearer to the price', class: 'static!' },
  ];
</script>

<p class="m-0 px-3 pb-1 text-[11.5px] text-soft">
  units of the underlying that hedge the sold {figures.strike(strike)} straddle, by price, on the {bench.snapshot.shown
    ?.basis} basis
</p>
{#if found && figure}
  <div class="flex min-h-0 flex-1 gap-2 px-2">
    <Chart {figure} name="straddle-hedge" label="Hedge of a sold straddle by price" />
    <DataGrid
      label="Hedge by price"
      heads={HEADS}
      rows={rungs}
      keyOf={({ times }) => times}
      isDense
      area="w-[168px] flex-none self-start"
      testid="straddle-hedge"
      isLit={({ times }) => times === 0}
    >
      {#snippet row({ times, at, hedge: held }, i)}
        {@const nearer = times === 0 ? held : rungs[times < 0 ? i + 1 : i - 1]!.hedge}

        <td class="cell"
          ><Worked open={() => openWork(at)} title="{figures.signed(times, 1)} expected moves: the working"
            >{figures.fixed(at, decimals)}</Worked
          ></td
        >
        <td class="cell"><Worked open={() => openWork(at)}>{figures.signed(held, 2)}</Worked></td>
        <td class="cell"
          >{#if times !== 0}<Worked open={() => openWork(at, nearer)}>{figures.signed(held - nearer, 2)}</Worked
            >{/if}</td
        >
      {/snippet}
    </DataGrid>
  </div>
  <div class="flex-none p-2 pt-1">
    <Sentence
      sentence={hedgeSentence(hedgeAt, { price, low: levels[0]!, high: levels[1]! }, found.fastest, decimals)}
    />
  </div>
{:else}
  <p class="m-auto px-6 text-center text-soft">
    {!slice || !bench.snapshot.shown
      ? 'Loading …'
      : index < 0 || !(move > 0)
        ? 'No straddle can be sold: the expiry has no strike or no expected move.'
        : !current
          ? 'Working out …'
          : `The ${bench.snapshot.shown.basis} basis has no vol for both sides of the strike.`}
  </p>
{/if}

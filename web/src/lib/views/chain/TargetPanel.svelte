<script lang="ts">
  import { annualized, type Side } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import { numberColumns, type DataTable } from '$lib/tables';
  import { DataGrid, Worked, type Head } from '$lib/ui';
  import { LADDER, metOn, returnsOf, TARGET_WORDS, type Met } from './target';
  import { targetWork } from './work';
  import { PARAMS } from './params';

  const bench = useWorkbench();
  const params = useParams(PARAMS);

  const at = $derived(bench.focus.current?.slice ?? -1);
  const slice = $derived(bench.snapshot.shown?.snapshot.slices[at] ?? null);
  const values = $derived(bench.snapshot.shown?.values[at] ?? null);
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);

  /** Every step of the ladder and the odds that are asked for, both sides. */
  const rows = $derived.by(() => {
    if (!slice || !values) return [];
    const { targetKind, target, targetWidth } = params;
    const steps = [...new Set([...LADDER, target])].sort((a, b) => a - b);
    return steps.map((odds) => {
      const of = (side: Side) => metOn(slice, values, side, targetKind, odds / 100, targetWidth);
      return { odds, put: of('put'), call: of('call') };
    });
  });

  const returns = (one: Met) => returnsOf(one, bench.snapshot.shown?.snapshot.price ?? NaN);
  function openWork(one: Met, asked: number): void {
    if (!slice || !bench.snapshot.shown) return;
    const { snapshot, basis } = bench.snapshot.shown;
    const { days } = slice.fit;
    const given = { days, price: snapshot.price, expiry: slice, basis };
    bench.dialogs.work = targetWork(one, params.targetKind, asked, given);
  }
  const worstOf = (one: Met) => one.spread?.worst ?? one.worst;

  const NAMES = [
    'strike',
    'bought',
    'odds',
    'delta',
    'itm',
    'touch',
    'credit',
    'worst',
    'risk',
    'return',
    'annualized',
  ];
  offerTable(
    'target-odds',
    () => `Target odds of ${bench.context.symbol}, ${slice ? shortExpiry(slice) : 'one expiry'}`,
    (): DataTable | null =>
      slice && {
        columns: [
          { name: 'expiry', type: 'day' },
          { name: 'settlement', type: 'text' },
          ...numberColumns(['asked']),
          { name: 'side', type: 'text' },
          ...numberColumns(NAMES),
        ],
        rows: rows.flatMap(({ odds, put, call }) =>
          [put, call].flatMap((one) => {
            if (!one) return [];
            const { credit, risk, share } = returns(one);
            return [
              [
                ...[
                  slice.expiry,
                  slice.settlement,
                  odds / 100,
                  one.side === 'call' ? 'C' : 'P',
                  one.strike,
                  one.spread?.bought ?? null,
                ],
                ...[one.odds, one.delta, one.itm, one.touch, credit, worstOf(one), risk, share],
                annualized(share, slice.fit.days),
              ],
            ];
          }),
        ),
      },
  );

  /** Under the line of heads above. */
  const UNDER = 'top-[25px]!';
  const halfHeads = $derived<readonly Head[]>(
    [
      { label: 'strike' },
      { label: 'odds', title: 'as asked' },
      { label: 'credit', title: 'at mid' },
      {
        label: 'ror %',
        title:
          params.targetWidth > 0
            ? 'credit over width less credit, per cent'
            : 'credit over what is risked, per cent: of a put its strike in cash, of a call the underlying that covers it',
      },
      { label: 'a year', title: 'as a year of simple interest' },
      { label: '|delta|', title: 'size of the delta, per cent' },
      { label: '− itm', title: 'what |delta| is wrong by for the odds to end in the money' },
      { label: 'touch', title: 'odds to touch the strike' },
      { label: '2×itm', title: 'what twice the odds to end in the money are wrong by for the touch' },
    ].map((head) => ({ ...head, class: UNDER })),
  );
  const heads = $derived<readonly Head[]>([...halfHeads, { label: '', class: UNDER }, ...halfHeads]);
</script>

{#snippet half(one: Met | null, odds: number)}
  {#if one}
    {@const { credit, risk, share } = returns(one)}
    {@const cells = [
      `${figures.strike(one.strike)}${one.spread ? `/${figures.strike(one.spread.bought)}` : ''}`,
      figures.fixed(100 * one.odds, 1),
      figures.fixed(credit, bench.market.decimals),
      figures.fixed(100 * share, 1),
      figures.fixed(100 * annualized(share, slice?.fit.days ?? NaN), 0),
      figures.fixed(100 * Math.abs(one.delta), 1),
      figures.signed(100 * (Math.abs(one.delta) - one.itm), 1),
      figures.fixed(100 * one.touch, 1),
      figures.signed(100 * (2 * one.itm - one.touch), 1),
    ]}
    {#each cells as text, i (i)}
      <td
        class="cell {i === 0 ? 'font-semibold' : i === 6 || i === 8 ? 'text-soft' : ''}"
        title={i === 3
          ? `worst ${figures.fixed(worstOf(one), bench.market.decimals)}; risk of one contract ${figures.fixed(risk * multiplier, 0)}`
          : undefined}><Worked open={() => openWork(one, odds)}>{text}</Worked></td
      >
    {/each}
  {:else}
    <td class="cell text-soft" colspan="9">no strike is so safe and bid for</td>
  {/if}
{/snippet}

<div class="flex items-center gap-2 px-3 pb-1 text-[11.5px]">
  <span class="text-soft"
    >{slice ? shortExpiry(slice) : ''}: the nearest strikes with at most so much {TARGET_WORDS[params.targetKind]}, on
    the {bench.snapshot.shown?.basis} basis</span
  >
  <span class="flex-1"></span>
  <label class="flex items-center gap-1 text-soft"
    >as a spread
    <input
      class="figures w-16 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
      type="number"
      min="0"
      step="any"
      aria-label="Width of the spread; 0 for a contract by itself"
      placeholder="width"
      value={params.targetWidth || ''}
      onkeydown={(event) => event.stopPropagation()}
      onchange={(event) => (params.targetWidth = Math.max(0, event.currentTarget.valueAsNumber || 0))}
    /> wide</label
  >
</div>
<DataGrid
  label="Strikes by odds"
  {heads}
  {rows}
  keyOf={({ odds }) => odds}
  isDense
  testid="target-odds"
  isLit={({ odds }) => odds === params.target}
  onchoose={({ odds }) => (params.target = odds)}
>
  {#snippet above()}
    <tr>
      <th class="head-cell" colspan="9"><span class="float-left pl-1 font-semibold">▽ puts</span></th>
      <th class="head-cell text-center!">at most</th>
      <th class="head-cell" colspan="9"><span class="float-left pl-2 font-semibold">△ calls</span></th>
    </tr>
  {/snippet}
  {#snippet row({ odds, put, call })}
    {@render half(put, odds)}
    <th class="cell text-center! font-semibold text-target">{figures.fixed(odds, odds % 1 ? 1 : 0)} %</th>
    {@render half(call, odds)}
  {/snippet}
</DataGrid>

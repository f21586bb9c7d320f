<script lang="ts">
  import { payoffOfLegs, placeLegs } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { figures, oddsSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, useWorkbench } from '$lib/state';
  import { legValues, legWords, structureWork } from '$lib/structure';
  import { numberColumns } from '$lib/tables';
  import { compareBases, type ComparedSide } from '$lib/data';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import { structureDifferences, structureViews, type StructureView } from './structure';

  const bench = useWorkbench();
  const decimals = $derived(bench.market.decimals);
  const { legs } = $derived(bench.context);
  const placed = $derived(bench.snapshot.shown ? placeLegs(bench.snapshot.shown.snapshot, legs) : null);

  const key = $derived(
    [
      bench.snapshot.shown?.snapshot.symbol,
      bench.snapshot.shown?.snapshot.asof,
      ...legs.map((leg) => legWords(leg)),
    ].join(' '),
  );
  const comparing = new Loaded<{ key: string; sides: ComparedSide[] }>(() => {
    const { shown } = bench.snapshot;
    if (!shown || !placed || placed.length === 0) return undefined;
    const wanted = key;
    const work = placed.map(({ slice, side }) => compareBases(shown.snapshot, slice, side, shown.terms, shown.quotes));
    return Promise.all(work).then((sides) => ({ key: wanted, sides: sides.filter((one) => one !== null) }));
  });
  $effect(() => {
    const [first] = placed ?? [];
    if (first) return bench.samples.want(first.slice);
  });

  const views = $derived.by(() => {
    const { shown } = bench.snapshot;
    if (!shown || !placed || placed.length === 0) return null;
    const compared = comparing.value;
    if (compared?.key !== key || compared.sides.length !== placed.length) return null;
    return structureViews(shown.snapshot, placed, compared.sides, (basis, at) => bench.samples.choiceAt(basis, at));
  });
  const payoff = $derived(bench.snapshot.shown && placed ? payoffOfLegs(bench.snapshot.shown.snapshot, placed) : null);
  const sentence = $derived(
    views && payoff && bench.snapshot.shown && placed
      ? oddsSentence(
          views.map(({ basis, odds }) => ({ basis, view: { itm: odds.gain } })),
          structureDifferences(bench.snapshot.shown.snapshot, placed, bench.snapshot.shown.terms),
        )
      : null,
  );
  /** Columns, by the line of the working that they lead to. */
  const COLUMNS: { at: string; label: string; title: string; text: (view: StructureView) => string }[] = [
    {
      ...{ at: 'vol', label: 'vol', title: 'of the whole expiry: at the forward, where each contract has its own' },
      text: ({ vol }) => figures.vol(vol),
    },
    {
      ...{ at: 'value', label: 'value', title: 'theory of the legs together' },
      text: ({ priced }) => figures.fixed(priced.value, decimals),
    },
    {
      ...{ at: 'edge', label: 'edge', title: 'mid less value' },
      text: ({ edge }) => figures.signed(edge, decimals),
    },
    {
      ...{ at: 'delta', label: 'delta', title: 'per unit of price' },
      text: ({ priced }) => figures.fixed(priced.delta, 3),
    },
    {
      ...{ at: 'theta', label: 'theta', title: 'a day' },
      text: ({ priced }) => figures.fixed(priced.theta, decimals),
    },
    {
      ...{ at: 'vega', label: 'vega', title: 'a vol point' },
      text: ({ priced }) => figures.fixed(priced.vega, decimals),
    },
    {
      ...{ at: 'itm', label: 'itm', title: 'odds that a leg ends in the money, per cent' },
      text: ({ odds }) => figures.fixed(100 * odds.itm, 1),
    },
    {
      ...{ at: 'touch', label: 'touch', title: 'odds that the price meets a break-even on the way, per cent' },
      text: ({ odds }) => figures.fixed(100 * odds.touch, 1),
    },
    {
      ...{ at: 'gain', label: 'gain', title: 'odds to gain when it expires, at its mid, per cent' },
      text: ({ odds }) => figures.fixed(100 * odds.gain, 1),
    },
    {
      ...{ at: 'move', label: '±1 σ', title: 'one deviation on this basis' },
      text: ({ move }) => figures.fixed(move, 1),
    },
  ];
  const money = (value: number) => (value === Infinity ? '∞' : figures.fixed(value, decimals));

  function openWork({ basis, vol, move, priced, odds }: StructureView, at: string): void {
    const { shown } = bench.snapshot;
    const compared = comparing.value;
    if (!shown || !placed || !compared) return;
    const values = placed.map((leg, i) => legValues(compared.sides[i]![basis], leg.index));
    const given = { snapshot: shown.snapshot, legs: placed, values, payoff };
    bench.dialogs.work = structureWork({ ...given, basis, vol, move, priced, odds }, at);
  }

  offerTable(
    'structure-by-basis',
    () => `Structure of ${bench.context.symbol} by basis`,
    () =>
      views && {
        columns: [
          { name: 'basis', type: 'text' },
          ...numberColumns(['vol', 'value', 'edge', 'delta', 'theta', 'vega', 'skew', 'itm', 'touch', 'gain', 'move']),
        ],
        rows: views.map(({ basis, vol, priced, edge, odds, move }) => [
          ...[basis, vol, priced.value, edge, priced.delta, priced.theta, priced.vega, priced.skew],
          ...[odds.itm, odds.touch, odds.gain, move],
        ]),
      },
  );

  const heads = $derived<readonly Head[]>([
    { label: 'basis', align: 'left' },
    ...COLUMNS.map(({ label, title }) => ({ label, title })),
  ]);
</script>

{#if legs.length === 0}
  <p class="m-auto px-6 text-center text-soft">
    No structure is picked. In the Chain ctrl-click buys and shift-click sells a contract, or + and − with the keys.
  </p>
{:else if bench.snapshot.shown && !placed}
  <p class="m-auto px-6 text-center text-soft">A leg of the structure is not listed at this moment.</p>
{:else if views}
  <p class="m-0 truncate px-3 pb-1 text-[11.5px] text-soft">
    {legs.map((leg) => legWords(leg)).join(', ')}
    {#if payoff}· even at {payoff.breakEvens.map((price) => figures.fixed(price, decimals)).join(' and ') || '–'} · gains
      {money(payoff.maxProfit)}, loses {money(payoff.maxLoss)} at most{/if}
  </p>
  <DataGrid
    label="The structure by basis"
    {heads}
    rows={views}
    keyOf={(view) => view.basis}
    isDense
    isEdged
    testid="structure-by-basis"
    isLit={({ basis }) => basis === bench.context.basis}
    onchoose={({ basis }) => (bench.context.basis = basis)}
  >
    {#snippet row(view)}
      <th class="cell text-left! font-[inherit]">{view.basis}</th>
      {#each COLUMNS as { at, text } (at)}
        <td class="cell"><Worked open={() => openWork(view, at)}>{text(view)}</Worked></td>
      {/each}
    {/snippet}
  </DataGrid>
  <div class="flex-none p-2 pt-1">
    {#if sentence}<Sentence {sentence} />{:else}<p class="m-0 text-[11.5px] text-soft">
        Legs that expire apart, or are not quoted, pay nothing that odds could be told of.
      </p>{/if}
  </div>
{:else}
  <p class="m-auto text-soft">{bench.problem ?? 'Working out …'}</p>
{/if}

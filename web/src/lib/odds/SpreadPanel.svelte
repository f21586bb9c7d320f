<script lang="ts">
  import type { Basis } from '@umwelt/core';
  import { legWords } from '$lib/chain/spread';
  import { offerTable } from '$lib/exports';
  import { figures, oddsSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { compareBases, type ComparedSide } from '$lib/workers';
  import { spreadWork } from './work';
  import { payoffOfLegs, placedLegs, spreadDifferences, spreadViews } from './spread';

  const bench = useWorkbench();
  const decimals = $derived(bench.decimals);
  const { legs } = $derived(bench.context);
  const placed = $derived(bench.shown ? placedLegs(bench.shown.snapshot, legs) : null);

  let compared = $state.raw<{ key: string; sides: ComparedSide[] } | null>(null);
  const key = $derived(
    [bench.shown?.snapshot.symbol, bench.shown?.snapshot.asof, ...legs.map((leg) => legWords(leg))].join(' '),
  );
  $effect(() => {
    const { shown } = bench;
    if (!shown || !placed || placed.length === 0) return;
    const wanted = key;
    let isWanted = true;
    const work = placed.map(({ slice, side }) => compareBases(shown.snapshot, slice, side, shown.terms, shown.quotes));
    void Promise.all(work).then((sides) => {
      const known = sides.filter((one) => one !== null);
      if (isWanted && known.length === sides.length) compared = { key: wanted, sides: known };
    });
    return () => (isWanted = false);
  });
  $effect(() => {
    const [first] = placed ?? [];
    if (first) return bench.wantSample(first.slice);
  });

  const views = $derived.by(() => {
    const { shown } = bench;
    if (!shown || !placed || placed.length === 0 || compared?.key !== key) return null;
    return spreadViews(shown.snapshot, placed, compared.sides, (basis, at) => bench.choiceAt(basis, at));
  });
  const payoff = $derived(bench.shown && placed ? payoffOfLegs(bench.shown.snapshot, placed) : null);
  const sentence = $derived(
    views && payoff && bench.shown && placed
      ? oddsSentence(
          views.map(({ basis, gain }) => ({ basis, view: { itm: gain } })),
          spreadDifferences(bench.shown.snapshot, placed, bench.shown.terms),
        )
      : null,
  );
  const money = (value: number) => (value === Infinity ? '∞' : figures.fixed(value, decimals));

  function openWork(basis: Basis, gain: number): void {
    const { shown } = bench;
    if (!shown || !placed || !compared) return;
    const { sides } = compared;
    const parts = placed.map(({ slice, index, ...leg }, i) => {
      const { bid, ask } = shown.snapshot.slices[slice]![leg.side];
      return {
        words: legWords(leg),
        quantity: leg.quantity,
        theory: sides[i]![basis].theory[index]!,
        mid: 0.5 * (bid[index]! + ask[index]!),
      };
    });
    bench.work = spreadWork(basis, parts, gain);
  }

  offerTable(
    'spread-by-basis',
    () => `Spread of ${bench.context.symbol} by basis`,
    () =>
      views && {
        columns: [
          { name: 'basis', type: 'text' },
          ...numberColumns(['value', 'edge', 'delta', 'theta', 'vega', 'skew', 'gain', 'move']),
        ],
        rows: views.map(({ basis, priced, edge, gain, move }) => [
          ...[basis, priced.value, edge, priced.delta, priced.theta, priced.vega, priced.skew, gain, move],
        ]),
      },
  );
</script>

{#if legs.length === 0}
  <p class="m-auto px-6 text-center text-soft">
    No spread is picked. In the Chain ctrl-click buys and shift-click sells a contract, or + and − with the keys.
  </p>
{:else if bench.shown && !placed}
  <p class="m-auto px-6 text-center text-soft">A leg of the spread is not listed at this moment.</p>
{:else if views}
  <p class="m-0 truncate px-3 pb-1 text-[11.5px] text-soft">
    {legs.map((leg) => legWords(leg)).join(', ')}
    {#if payoff}· even at {payoff.breakEvens.map((price) => figures.fixed(price, decimals)).join(' and ') || '–'} · gains
      {money(payoff.maxProfit)}, loses {money(payoff.maxLoss)} at most{/if}
  </p>
  <div class="min-h-0 flex-1 overflow-auto">
    <table class="dense w-full border-collapse" data-testid="spread-by-basis">
      <thead>
        <tr>
          <th class="head-cell pl-3! text-left!">basis</th>
          <th class="head-cell">value</th>
          <th class="head-cell" title="mid less value">edge</th>
          <th class="head-cell">delta</th>
          <th class="head-cell" title="a day">theta</th>
          <th class="head-cell" title="a vol point">vega</th>
          <th class="head-cell" title="odds to gain when it expires, at its mid, per cent">gains %</th>
          <th class="head-cell pr-3!" title="one deviation on this basis">±1 σ</th>
        </tr>
      </thead>
      <tbody>
        {#each views as { basis, priced, edge, gain, move } (basis)}
          <tr
            class="cursor-pointer border-b border-line hover:bg-band {basis === bench.context.basis
              ? 'bg-band font-semibold'
              : ''}"
            onclick={() => (bench.context.basis = basis)}
          >
            <th class="cell pl-3! text-left! font-[inherit]"
              ><button class="cursor-pointer" onclick={() => (bench.context.basis = basis)}>{basis}</button></th
            >
            <td class="cell"
              ><button
                class="cursor-pointer hover:underline"
                title="the working"
                onclick={(event) => {
                  event.stopPropagation();
                  openWork(basis, gain);
                }}>{figures.fixed(priced.value, decimals)}</button
              ></td
            >
            <td class="cell">{figures.signed(edge, decimals)}</td>
            <td class="cell">{figures.fixed(priced.delta, 3)}</td>
            <td class="cell">{figures.fixed(priced.theta, decimals + 1)}</td>
            <td class="cell">{figures.fixed(priced.vega, decimals + 1)}</td>
            <td class="cell">{figures.fixed(100 * gain, 1)}</td>
            <td class="cell pr-3!">{figures.fixed(move, decimals)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <div class="flex-none p-2 pt-1">
    {#if sentence}<Sentence {sentence} />{:else}<p class="m-0 text-[11.5px] text-soft">
        Legs that expire apart, or are not quoted, pay nothing that odds could be told of.
      </p>{/if}
  </div>
{:else}
  <p class="m-auto text-soft">{bench.problem ?? 'Working out …'}</p>
{/if}

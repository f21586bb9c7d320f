<script lang="ts">
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import { offerTable } from '$lib/exports';
  import { figures, shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useParams, useWorkbench } from '$lib/state';
  import { isSame, legWords } from '$lib/structure';
  import { numberColumns } from '$lib/tables';
  import { DataGrid, Toggles, type Head } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';
  import { FILLS, PARAMS } from './params';
  import Shelf from './Shelf.svelte';
  import { structureSentence } from './words';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const answer = $derived(desk.answer);
  /** A leg with what is known of it: the answer may still be that of other legs. */
  const rows = $derived(
    desk.legs.map((leg) => {
      const at = answer?.request.legs.findIndex((one) => isSame(leg, one)) ?? -1;
      return { leg, values: answer?.evaluation.legs[at] };
    }),
  );
  const sentence = $derived(
    answer ? structureSentence(answer.evaluation, { times: desk.times, digits: desk.digits, decimals }) : null,
  );
  const year = $derived(bench.snapshot.shown?.snapshot.asof.slice(0, 4));

  const HEADS: readonly Head[] = [
    { label: 'qty', title: 'contracts: bought is plus' },
    { label: 'leg', align: 'left' },
    { label: 'price', title: 'at the fill' },
    { label: 'theory', title: 'on the basis, in the scenario' },
    { label: 'vol', title: 'on the basis, in the scenario' },
    { label: 'delta', title: 'of one unit' },
    { label: 'change', isHidden: true },
  ];

  offerTable(
    'legs',
    () => `Legs of the structure on ${bench.context.symbol}`,
    () =>
      answer && {
        columns: [
          ...numberColumns(['quantity']),
          { name: 'expiry', type: 'text' },
          { name: 'settlement', type: 'text' },
          ...numberColumns(['strike']),
          { name: 'side', type: 'text' },
          ...numberColumns(['entry', 'theory', 'vol', 'delta', 'gamma', 'theta', 'vega']),
        ],
        rows: answer.request.legs.map(({ quantity, expiry, settlement, strike, side }, i) => {
          const { entry, value, vol, delta, gamma, theta, vega } = answer.evaluation.legs[i]!;
          return [quantity, expiry, settlement, strike, side, entry, value, vol, delta, gamma, theta, vega];
        }),
      },
  );
</script>

<section class="panel min-h-0 flex-1" aria-label="Legs">
  <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Legs</h2>
    <span class="flex-1"></span>
    <Shelf />
    <button class="btn btn-xs" title="what is bought is sold, what is sold is bought" onclick={() => desk.reverse()}
      >reverse</button
    >
    <button class="btn btn-xs" onclick={() => (bench.context.legs = [])}>clear</button>
    <Toggles
      label="Fill"
      options={FILLS}
      bind:value={params.fill}
      titles={(fill) =>
        ({
          worst: 'bought at the ask, sold at the bid',
          mid: 'at the middle',
          best: 'bought at the bid, sold at the ask',
        })[fill]}
    />
  </header>
  <DataGrid
    label="Legs"
    heads={HEADS}
    {rows}
    keyOf={({ leg }) => legWords(leg, '')}
    isDense
    isEdged
    testid="structure-legs"
  >
    {#snippet row({ leg, values }, i)}
      <td class="cell figures {leg.quantity > 0 ? 'text-gain' : 'text-loss'}"
        ><b>{figures.signed(leg.quantity, 0)}</b></td
      >
      <td class="cell text-left!">{shortExpiry(leg, year)} {figures.strike(leg.strike)} {leg.side}</td>
      <td class="cell" title={values?.enteredBy === 'theory' ? 'it has no quote: its theory' : undefined}
        >{values ? figures.fixed(values.entry, decimals) : '–'}{values?.enteredBy === 'theory' ? '*' : ''}</td
      >
      <td class="cell">{figures.fixed(values?.value, decimals)}</td>
      <td class="cell">{figures.vol(values?.vol)}</td>
      <td class="cell">{figures.signed(values?.delta, 3)}</td>
      <td class="cell whitespace-nowrap">
        <button
          class="cursor-pointer px-0.5 text-soft hover:text-ink"
          aria-label="One less of {legWords(leg)}"
          onclick={() => desk.change(i, -1)}><Minus size={12} /></button
        ><button
          class="cursor-pointer px-0.5 text-soft hover:text-ink"
          aria-label="One more of {legWords(leg)}"
          onclick={() => desk.change(i, 1)}><Plus size={12} /></button
        >
      </td>
    {/snippet}
  </DataGrid>
  {#if sentence}<div class="flex-none p-2 pt-0"><Sentence {sentence} /></div>{/if}
</section>

<script lang="ts">
  import { namedExpiry } from '@umwelt/core';
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import type { QuotesLook } from '$lib/data';
  import { DataGrid, type Head } from '$lib/ui';
  import { arbitrageSentence, arbitrageTable, placeWords } from './arbitrage';

  let { look }: { look: QuotesLook } = $props();

  const bench = useWorkbench();
  const MOST = 200;
  /** As many as are in view: during playback the list is not shown in full. */
  const MOST_PLAYED = 16;
  const most = $derived(bench.playback.frame ? MOST_PLAYED : MOST);

  const found = $derived(look.contradictions);
  /** Those of curves first: they come from our fits, not from the market. */
  const listed = $derived([
    ...found.ofCurves.map((one) => ({ ...one, isOfCurves: true })),
    ...found.ofQuotes.map((one) => ({ ...one, isOfCurves: false })),
  ]);

  offerTable(
    'arbitrage',
    () => `Arbitrage in the quotes of ${bench.context.symbol}`,
    () => arbitrageTable(found),
  );

  function choose({ expiry, strikes, side }: (typeof listed)[number]): void {
    bench.focus.set({ ...namedExpiry(expiry)!, strike: strikes[0]!, side: side === 'both' ? 'call' : side });
  }

  const HEADS: readonly Head[] = [
    { label: 'what', align: 'left' },
    { label: 'where', align: 'left' },
    { label: 'at mid', title: 'what mids are apart, per unit' },
    { label: 'earned', title: 'after buying at the ask and selling at the bid' },
  ];
</script>

<div class="min-h-0 flex-1 overflow-auto px-2">
  <!-- By position: what plays changes the numbers of its rows, not the rows. -->
  <DataGrid
    label="What could be earned"
    heads={HEADS}
    rows={listed.slice(0, most)}
    keyOf={(_, i) => i}
    isDense
    area="flex-none"
    testid="arbitrage"
    rowClass={({ afterSpread }) => ['h-[22px]', afterSpread > 0 ? 'font-semibold' : 'text-soft']}
    onchoose={choose}
    none="No quote contradicts another one."
  >
    {#snippet row(one)}
      <td class="pr-1 text-[12px]">{one.isOfCurves ? `curve: ${one.kind}` : one.kind}</td>
      <td class="figures text-[10.5px]! leading-[11px] tracking-tighter whitespace-normal!"
        >{#each placeWords(one).split(' / ') as part, n (n)}{n > 0 ? ' / ' : ''}<span class="whitespace-nowrap"
            >{part}</span
          >{/each}</td
      >
      <td class="cell">{figures.fixed(one.atMid, bench.market.decimals)}</td>
      <td class="cell {one.afterSpread > 0 ? 'text-loss' : ''}"
        >{figures.signed(one.afterSpread, bench.market.decimals)}</td
      >
    {/snippet}
  </DataGrid>
  {#if listed.length > most}<p class="text-[11px] text-soft">
      The first {most} of {figures.count(listed.length)}; e exports all.
    </p>{/if}
</div>
<div class="p-2 pt-1"><Sentence sentence={arbitrageSentence(found)} /></div>

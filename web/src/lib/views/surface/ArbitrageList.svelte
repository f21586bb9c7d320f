<script lang="ts">
  import { namedExpiry } from '@umwelt/core';
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import type { QuotesLook } from '$lib/data';
  import { arbitrageSentence, arbitrageTable, placeWords } from './arbitrage';

  let { look }: { look: QuotesLook } = $props();

  const bench = useWorkbench();
  const MOST = 200;
  /** As many as are in view: what plays is not read to its end. */
  const MOST_PLAYED = 16;
  const most = $derived(bench.playback.frame ? MOST_PLAYED : MOST);

  const found = $derived(look.contradictions);
  /** Those of curves first: they are of one's own making. */
  const listed = $derived([
    ...found.ofCurves.map((one) => ({ ...one, isOfCurves: true })),
    ...found.ofQuotes.map((one) => ({ ...one, isOfCurves: false })),
  ]);

  offerTable(
    'arbitrage',
    () => `Arbitrage in the quotes of ${bench.context.symbol}`,
    () => arbitrageTable(found),
  );
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div class="min-h-0 flex-1 overflow-auto px-2" tabindex="0" role="group" aria-label="What could be earned">
  <table class="dense w-full border-collapse" data-testid="arbitrage">
    <thead>
      <tr>
        <th class="head-cell pl-0! text-left!">what</th>
        <th class="head-cell text-left!">where</th>
        <th class="head-cell" title="what mids are apart, per unit">at mid</th>
        <th class="head-cell" title="after buying at the ask and selling at the bid">earned</th>
      </tr>
    </thead>
    <tbody>
      <!-- By position: what plays changes the numbers of its rows, not the rows. -->
      {#each listed.slice(0, most) as one, i (i)}
        {@const isEarned = one.afterSpread > 0}
        <tr
          class="h-[22px] cursor-pointer border-b border-line hover:bg-band {isEarned ? 'font-semibold' : 'text-soft'}"
          onclick={() =>
            bench.focus.set({
              ...namedExpiry(one.expiry)!,
              strike: one.strikes[0]!,
              side: one.side === 'both' ? 'call' : one.side,
            })}
        >
          <td class="pr-1 text-[12px]">{one.isOfCurves ? `curve: ${one.kind}` : one.kind}</td>
          <td class="figures text-[10.5px]! leading-[11px] tracking-tighter whitespace-normal!"
            >{#each placeWords(one).split(' / ') as part, n (n)}{n > 0 ? ' / ' : ''}<span class="whitespace-nowrap"
                >{part}</span
              >{/each}</td
          >
          <td class="cell">{figures.fixed(one.atMid, bench.market.decimals)}</td>
          <td class="cell {isEarned ? 'text-loss' : ''}">{figures.signed(one.afterSpread, bench.market.decimals)}</td>
        </tr>
      {:else}
        <tr><td colspan="4" class="py-2 text-soft">No quote contradicts another one.</td></tr>
      {/each}
    </tbody>
  </table>
  {#if listed.length > most}<p class="text-[11px] text-soft">
      The first {most} of {figures.count(listed.length)}; e exports all.
    </p>{/if}
</div>
<div class="p-2 pt-1"><Sentence sentence={arbitrageSentence(found)} /></div>

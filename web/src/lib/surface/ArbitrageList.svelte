<script lang="ts">
  import { offerTable } from '$lib/exports/shown';
  import { figures } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import { arbitrageOf, arbitrageOfCurves, arbitrageSentence, arbitrageTable, placeWords } from './arbitrage';

  const bench = useWorkbench();
  const MOST = 200;

  const found = $derived(bench.shown ? arbitrageOf(bench.shown) : []);
  const ofCurves = $derived(bench.shown ? arbitrageOfCurves(bench.shown) : []);
  /** Those of curves first: they are of one's own making. */
  const listed = $derived([
    ...ofCurves.map((one) => ({ ...one, isOfCurves: true })),
    ...found.map((one) => ({ ...one, isOfCurves: false })),
  ]);
  const decimals = $derived(Math.max(2, figures.decimalsOf(bench.underlying?.tick)));

  offerTable(
    'arbitrage',
    () => `Arbitrage in the quotes of ${bench.context.symbol}`,
    () => arbitrageTable(found, ofCurves),
  );
</script>

{#if bench.shown}
  <div class="min-h-0 flex-1 overflow-auto px-3">
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
        {#each listed.slice(0, MOST) as one (JSON.stringify( [one.isOfCurves, one.kind, one.expiry, one.side, one.strikes, one.atMid] ))}
          {@const isEarned = one.afterSpread > 0}
          <tr
            class="h-[22px] cursor-pointer border-b border-line hover:bg-band {isEarned
              ? 'font-semibold'
              : 'text-soft'}"
            onclick={() =>
              bench.setFocus({
                expiry: one.expiry,
                strike: one.strikes[0]!,
                side: one.side === 'both' ? 'call' : one.side,
              })}
          >
            <td class="pr-1 text-[12px]">{one.isOfCurves ? `curve: ${one.kind}` : one.kind}</td>
            <td class="figures text-[10.5px]! tracking-tighter">{placeWords(one)}</td>
            <td class="cell">{figures.fixed(one.atMid, decimals)}</td>
            <td class="cell {isEarned ? 'text-loss' : ''}">{figures.signed(one.afterSpread, decimals)}</td>
          </tr>
        {:else}
          <tr><td colspan="4" class="py-2 text-soft">No quote contradicts another one.</td></tr>
        {/each}
      </tbody>
    </table>
    {#if found.length > MOST}<p class="text-[11px] text-soft">
        The first {MOST} of {figures.count(found.length)}; e exports all.
      </p>{/if}
  </div>
  <div class="p-2 pt-1"><Sentence sentence={arbitrageSentence(bench.shown, found)} /></div>
{/if}

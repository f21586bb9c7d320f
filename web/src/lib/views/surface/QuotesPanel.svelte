<script lang="ts">
  import { asideSentence, longMoment } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import ArbitrageList from './ArbitrageList.svelte';
  import { AsideList } from '$lib/panels';
  import { QuotesInView } from './quotes-in-view.svelte';

  /** @prop about what of the quotes is listed */
  let { about }: { about: 'arbitrage' | 'aside' } = $props();

  const bench = useWorkbench();
  const quotes = new QuotesInView(bench);
  const look = $derived(quotes.found?.symbol === bench.context.symbol ? quotes.found : null);
  /** At rest an exclusion is seen at once, before the worker has looked through the quotes again. */
  const fits = $derived(
    bench.playback.frame ? look?.fits : bench.snapshot.shown?.snapshot.slices.map(({ fit }) => fit),
  );
</script>

{#if about === 'arbitrage' && look}
  <ArbitrageList {look} />
{:else if about === 'aside' && fits}
  <div class="min-h-0 flex-1 overflow-auto">
    <AsideList {fits} isStill={bench.playback.frame === null} />
  </div>
  {#if fits.length > 0}<div class="flex-none p-2 pt-1"><Sentence sentence={asideSentence(fits)} /></div>{/if}
{:else}
  <p class="m-auto p-3 text-soft">
    {quotes.problem ??
      bench.problem ??
      (bench.market.current && bench.moment.index < 0 ? 'No chain is held at this moment.' : 'Loading …')}
  </p>
{/if}
{#if bench.playback.frame && look}
  <!-- Not every moment's quotes can be had as fast as it plays. -->
  <p class="m-0 flex-none px-3 pb-1 text-[11px] {quotes.problem ? 'text-loss' : 'text-soft'}">
    {quotes.problem ?? `quotes of ${longMoment(Date.parse(look.asof), bench.market.calendar.zone)}`}
  </p>
{/if}

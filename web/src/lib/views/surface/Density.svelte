<script lang="ts">
  import { Chart, HeldRange } from '$lib/charts';
  import { densityFigure, densityMoving, densitySentence, holdDensity, lawsOfExpiry } from './charts/density';
  import { shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { expiryIndex, useTheme, useWorkbench } from '$lib/state';
  import { Toggles } from '$lib/ui';

  const bench = useWorkbench();
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };
  let isCumulative = $state(false);

  const still = $derived(
    bench.snapshot.shown && bench.focus.lit ? bench.snapshot.shown.snapshot.slices[bench.focus.lit.slice]!.fit : null,
  );
  const frame = $derived(bench.playback.frame);
  const played = $derived(frame ? (frame.expiries[expiryIndex(frame.expiries, bench.context)] ?? null) : null);

  /** What was known of closes at a moment. */
  function closesTo(lastBar: number): Float64Array {
    const bar = bench.market.bars?.at[lastBar] ?? -1;
    return bench.market.bars?.close.slice(0, bar + 1) ?? new Float64Array();
  }
  const laws = $derived(still ? lawsOfExpiry(still, closesTo(bench.snapshot.lastBar)) : null);
  const playedLaws = $derived(played ? lawsOfExpiry(played, closesTo(bench.moment.lastBar)) : null);

  /** Another one whenever the axes were made to hold what plays. */
  const held = $derived.by(() => {
    const { played } = bench.playback;
    if (played.length === 0 || !still) return played;
    const others = played.flatMap(({ expiries }) => expiries[expiryIndex(expiries, bench.context)] ?? []);
    holdDensity({ expiry: still, isCumulative, tokens: theme.tokens, ranges }, others);
    return played;
  });
  const figure = $derived.by(() => {
    void held;
    return still && laws ? densityFigure({ expiry: still, isCumulative, tokens: theme.tokens, ranges }, laws) : null;
  });
  const moving = $derived(played && playedLaws ? densityMoving(played, playedLaws, isCumulative, theme.tokens) : null);
  const sentence = $derived.by(() => {
    if (played && playedLaws) return densitySentence(playedLaws, played);
    return still && laws ? densitySentence(laws, still) : null;
  });
</script>

{#if still && laws && figure && sentence}
  <div class="flex items-center gap-2 px-3 text-[11px] text-soft">
    <span class="text-implied">— curve</span><span>··· lognormal</span>{#if laws.past}<span class="text-realized"
        >– – past</span
      >{/if}
    <span
      class="flex-1 truncate text-right"
      title={isCumulative ? 'odds of ending under a price' : 'odds in per cent for each per cent of move'}
      >{isCumulative ? '% under' : '% per % of move'}</span
    >
    <Toggles
      label="Law"
      options={[false, true]}
      words={(one) => (one ? 'under' : 'density')}
      bind:value={isCumulative}
    />
  </div>
  <div class="flex min-h-0 flex-1 px-2">
    <Chart {figure} {moving} name="density" label="Density of {shortExpiry(still)}" />
  </div>
  <!-- Of one height, so that the chart does not jump while the words change. -->
  <div class="h-[74px] flex-none overflow-hidden p-2 pt-1"><Sentence {sentence} /></div>
{:else}
  <p class="m-auto text-soft">This expiry has no curve.</p>
{/if}

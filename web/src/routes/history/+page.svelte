<script lang="ts">
  import { Chart, ESTIMATOR_NAMES, HeldRange, historyFigure, historyPoints, seriesOf } from '$lib/charts';
  import { figures, historySentence, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { ESTIMATORS, useTheme, useWorkbench, valueOf, WINDOWS } from '$lib/state';

  const bench = useWorkbench();
  const theme = useTheme();

  const ranges = { price: new HeldRange(), vol: new HeldRange(), gap: new HeldRange() };
  const names = { yz: 'Yang–Zhang', close: 'close', both: 'both' };

  const market = $derived(bench.current);
  const drawn = $derived(seriesOf(bench.context.estimator, bench.context.window));
  /** The one that the gap is taken against. */
  const series = $derived(drawn[0]!);
  const estimator = $derived(bench.context.estimator === 'close' ? ESTIMATOR_NAMES.close : ESTIMATOR_NAMES.yz);
  const knownBar = $derived(market?.history[bench.lastBar]);
  const hv = $derived(valueOf(knownBar, series));
  const figure = $derived(
    market && bench.index >= 0
      ? historyFigure({
          rows: market.history,
          events: market.events,
          calendar: bench.calendar,
          instant: bench.instant,
          price: bench.summary?.price ?? NaN,
          estimator: bench.context.estimator,
          window: bench.context.window,
          allBars: bench.context.allBars,
          tokens: theme.tokens,
          ranges,
          symbol: market.symbol,
        })
      : null,
  );
  const sentence = $derived.by(() => {
    if (!market || !bench.summary) return null;
    const gaps = historyPoints(market.history, bench.calendar, bench.instant, series).map((point) => point.gap);
    return historySentence(bench.summary.iv30 ?? NaN, hv, estimator, bench.context.window, gaps);
  });
</script>

<section class="panel flex-1" aria-label="History">
  <header class="flex items-center gap-2.5 px-3 py-2">
    <h2 class="text-[15px] font-bold">History</h2>
    <span class="truncate text-soft">
      price, <b class="text-implied">iv30</b> against <b class="text-realized">historical vol</b>, and the gap of iv30
      over what was known
      {#if knownBar}· bars through {shortDay(knownBar.date)}{/if}
    </span>
    <span class="flex-1"></span>
    <div class="toggle-group" role="group" aria-label="Estimator">
      {#each ESTIMATORS as name (name)}
        <button aria-pressed={bench.context.estimator === name} onclick={() => (bench.context.estimator = name)}
          >{names[name]}</button
        >
      {/each}
    </div>
    <div class="toggle-group" role="group" aria-label="Window, sessions">
      {#each WINDOWS as window (window)}
        <button aria-pressed={bench.context.window === window} onclick={() => (bench.context.window = window)}
          >{window}</button
        >
      {/each}
    </div>
    <div class="toggle-group" role="group" aria-label="Span">
      <button aria-pressed={!bench.context.allBars} onclick={() => (bench.context.allBars = false)}>implied held</button
      >
      <button aria-pressed={bench.context.allBars} onclick={() => (bench.context.allBars = true)}>all bars</button>
    </div>
  </header>
  <dl class="m-0 flex gap-6 px-3 pb-1" data-testid="history-figures">
    <div>
      <dt class="inline text-soft">iv30</dt>
      <dd class="figures m-0 inline font-semibold text-implied">{figures.vol(bench.summary?.iv30)}</dd>
    </div>
    {#each drawn as name, i (name)}
      <div>
        <dt class="inline text-soft">{i === 0 ? '- -' : '···'} {name}</dt>
        <dd class="figures m-0 inline font-semibold text-realized">{figures.vol(valueOf(knownBar, name))}</dd>
      </div>
    {/each}
    <div>
      <dt class="inline text-soft">gap</dt>
      <dd class="figures m-0 inline font-semibold">{figures.volChange((bench.summary?.iv30 ?? NaN) - hv)}</dd>
    </div>
    <div>
      <dt class="inline text-soft">IV/HV</dt>
      <dd class="figures m-0 inline font-semibold">{figures.fixed((bench.summary?.iv30 ?? NaN) / hv, 2)}</dd>
    </div>
  </dl>
  <div class="flex min-h-0 flex-1 px-2">
    {#if figure}
      <Chart {figure} name="history" label="History of {bench.context.symbol}" />
    {:else}
      <p class="m-auto text-soft">
        {bench.problem ?? (market && bench.index < 0 ? 'Nothing is held at this moment.' : 'Loading …')}
      </p>
    {/if}
  </div>
  {#if sentence}<div class="p-2"><Sentence {sentence} /></div>{/if}
</section>

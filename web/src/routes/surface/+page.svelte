<script lang="ts">
  import { reasonName } from '@umwelt/core';
  import { Chart, comingEvents, HeldRange, skewFigure, termFigure } from '$lib/charts';
  import { offerTable } from '$lib/exports';
  import { CURVE_WORDS, figures, fitLine, momentDay, skewSentence, termSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import {
    AXES,
    SKEW_SCALES,
    SKEW_SIDES,
    SURFACE_PANELS,
    stepAlong,
    useTheme,
    useWorkbench,
    type Axis,
  } from '$lib/state';
  import { ArbitrageList, AsideList, Density, ExpiryTable } from '$lib/surface';
  import { expiriesTable } from '$lib/tables';

  const bench = useWorkbench();
  const theme = useTheme();

  const skewRanges = { x: new HeldRange(), y: new HeldRange() };
  const termRanges = { x: new HeldRange(), y: new HeldRange() };

  const shown = $derived(bench.shown);
  const lit = $derived(bench.lit);
  const ghost = $derived(bench.ghost?.symbol === shown?.snapshot.symbol ? bench.ghost : null);
  const fits = $derived(shown?.snapshot.slices.map((slice) => slice.fit) ?? []);
  const litFit = $derived(lit ? fits[lit.slice]! : null);
  const variance = $derived(shown?.snapshot.measures.varianceIndex ?? NaN);
  const AXIS_NAMES: Record<Axis, string> = {
    strike: 'strike',
    forward: '% fwd',
    log: 'ln',
    standardized: 'std',
    delta: 'delta',
  };
  const AXIS_TITLES: Record<Axis, string> = {
    strike: 'strike',
    forward: 'strike, % of the forward',
    log: 'ln(K/F)',
    standardized: 'ln(K/F) ÷ σ√T',
    delta: 'delta of the call on the forward, %',
  };
  const SIDE_NAMES = { otm: 'out of the money', call: 'calls', put: 'puts', both: 'both sides' } as const;
  const PANELS = { expiries: 'Expiries', density: 'Density', arbitrage: 'Arbitrage', aside: 'Set aside' } as const;
  /** Whether a click on a mark sets it aside, or brings it back, rather than focusing it. */
  let isJudging = $state(false);
  const fitWords = $derived(litFit ? fitLine(litFit) : 'out-of-the-money mids with bid–ask, fitted curves');
  const fitTitle = $derived(litFit?.curve ? CURVE_WORDS[litFit.curve.kind] : undefined);

  /** How long the moment must rest before the quotes of all expiries are drawn. */
  const REST_MS = 250;
  let restedAt = $state.raw('');
  const moment = $derived(shown ? `${shown.snapshot.symbol} ${shown.snapshot.asof}` : '');
  $effect(() => {
    const now = moment;
    const timer = setTimeout(() => (restedAt = now), REST_MS);
    return () => clearTimeout(timer);
  });

  const skew = $derived(
    shown
      ? skewFigure({
          snapshot: shown.snapshot,
          values: shown.values,
          ghost,
          axis: bench.context.axis,
          sides: bench.context.sides,
          scale: bench.context.scale,
          isLog: bench.context.isLog,
          hasMisses: bench.context.hasMisses,
          hidden: bench.context.hidden,
          lit,
          framed: bench.focus?.slice ?? 0,
          isDetailed: restedAt === moment || bench.live !== null,
          tokens: theme.tokens,
          ranges: skewRanges,
        })
      : null,
  );
  const term = $derived(
    shown && bench.current
      ? termFigure({
          snapshot: shown.snapshot,
          ghost,
          calendar: bench.calendar,
          weeklies: bench.context.weeklies,
          events: bench.current.events,
          realizedVol: shown.realizedVol,
          lit,
          tokens: theme.tokens,
          ranges: termRanges,
        })
      : null,
  );

  /** The same expiry at the ghost; without one the sentence takes the 30-day measure of four weeks ago. */
  const before = $derived.by(() => {
    if (!ghost || !litFit) return null;
    const fit = ghost.slices.find((slice) => slice.expiry === litFit.expiry)?.fit;
    return fit ? { day: momentDay(ghost.instant, bench.calendar.zone), riskReversal25: fit.riskReversal25 } : null;
  });
  const MONTH = 20;
  const month = $derived.by(() => {
    const then = bench.current?.snapshots[stepAlong(bench.stops, bench.index, -MONTH)];
    if (!then || !bench.summary) return null;
    const day = momentDay(Date.parse(then.asof), bench.calendar.zone);
    return { day, then: then.riskReversal25 ?? NaN, now: bench.summary.riskReversal25 ?? NaN };
  });
  const sentence = $derived(litFit ? skewSentence(fits, litFit, before, month) : null);
  const termWords = $derived.by(() => {
    if (!shown || !bench.current) return null;
    const { measures, instant } = shown.snapshot;
    const [next] = comingEvents(bench.current.events, instant, Infinity, bench.calendar);
    return termSentence(measures.termSlope ?? NaN, measures.iv30 ?? NaN, measures.iv90 ?? NaN, next ?? null);
  });

  offerTable(
    'expiries',
    () => `Expiries of ${bench.context.symbol}`,
    () => (shown ? expiriesTable(shown.snapshot) : null),
  );

  function point(mark: unknown[] | null): void {
    const [expiry, strike, side] = mark ?? [];
    bench.pointed =
      typeof expiry === 'string' && typeof strike === 'number'
        ? { expiry, strike, side: side === 'call' ? 'call' : 'put' }
        : null;
  }

  function choose(mark: unknown[]): void {
    const [expiry, strike, side, state] = mark;
    if (typeof expiry !== 'string') return;
    const fit = fits.find((one) => one.expiry === expiry);
    if (isJudging && fit && typeof strike === 'number' && (side === 'call' || side === 'put')) {
      const aside = fit.aside.find((one) => one.strike === strike && one.side === side);
      const isByHand = aside !== undefined && reasonName(aside.reason) === 'by-hand';
      const verdict = state !== 'aside' ? 'aside' : isByHand ? null : 'use';
      void bench.judge({ expiry, settlement: fit.settlement, strike, side }, verdict);
      return;
    }
    bench.setFocus(
      typeof strike === 'number' ? { expiry, strike, side: side === 'call' ? 'call' : 'put' } : { expiry },
    );
  }
</script>

<section class="panel min-w-0 flex-[7] xl:flex-[8]" aria-label="Skew">
  <header class="flex items-center gap-2.5 px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold">Skew</h2>
    <span class="min-w-0 flex-1 truncate text-soft" title={fitTitle}>{fitWords}{ghost ? ', ghost dashed' : ''}</span>
    <div class="toggle-group" role="group" aria-label="Axis">
      {#each AXES as axis (axis)}
        <button
          aria-pressed={bench.context.axis === axis}
          title={AXIS_TITLES[axis]}
          onclick={() => (bench.context.axis = axis)}>{AXIS_NAMES[axis]}</button
        >
      {/each}
    </div>
  </header>
  <div class="flex items-center gap-2 px-3 pb-1 text-[12px]">
    <label class="flex items-center gap-1"
      ><span class="text-soft">quotes</span>
      <select
        class="cursor-pointer rounded-[5px] border border-line bg-panel px-1 py-0.5 text-[11px]"
        bind:value={bench.context.sides}
        aria-label="Quotes of the skew"
      >
        {#each SKEW_SIDES as sides (sides)}<option value={sides}>{SIDE_NAMES[sides]}</option>{/each}
      </select>
    </label>
    <div class="toggle-group" role="group" aria-label="Upright">
      {#each SKEW_SCALES as scale (scale)}
        <button
          aria-pressed={bench.context.scale === scale}
          title={scale === 'vol' ? 'vol in per cent' : 'total variance σ²T'}
          onclick={() => (bench.context.scale = scale)}>{scale}</button
        >
      {/each}
    </div>
    <div class="toggle-group" role="group" aria-label="More">
      <button aria-pressed={bench.context.isLog} onclick={() => (bench.context.isLog = !bench.context.isLog)}
        >log</button
      >
      <button
        aria-pressed={bench.context.hasMisses}
        title="how far the quotes are from the curve, with half their spread"
        onclick={() => (bench.context.hasMisses = !bench.context.hasMisses)}>misses</button
      >
      <button
        aria-pressed={isJudging}
        disabled={bench.live !== null}
        title="a click on a mark sets it aside, on a cross brings it back"
        onclick={() => (isJudging = !isJudging)}>set aside</button
      >
    </div>
  </div>
  <div class="flex min-h-0 flex-1 px-2">
    {#if skew}
      <Chart figure={skew} name="skew" label="Skew of {bench.context.symbol}" onpoint={point} onchoose={choose} />
    {:else}
      <p class="m-auto text-soft">
        {bench.problem ?? (bench.current && bench.index < 0 ? 'No chain is held at this moment.' : 'Loading …')}
      </p>
    {/if}
  </div>
  <div class="figures flex justify-between px-11 text-[11px]! text-soft">
    <span>▽ puts</span><span>{AXIS_TITLES[bench.context.axis]}</span><span>calls △</span>
  </div>
  <div class="h-[62px] p-2">
    {#if sentence}<Sentence {sentence} />{/if}
  </div>
</section>

<div class="flex min-h-0 min-w-0 flex-[5] flex-col gap-2">
  <section class="panel flex-[5]" aria-label="Term structure">
    <header class="flex items-center gap-2.5 px-3 py-2">
      <h2 class="text-[15px] font-bold whitespace-nowrap">Term structure</h2>
      <span
        class="min-w-0 truncate text-soft"
        title="ATM vol by days; the 30-day variance index by the strip of options"
        >{Number.isFinite(variance) ? `index ${figures.fixed(variance, 1)}` : 'ATM vol by days'}</span
      >
      <span class="flex-1"></span>
      <div class="toggle-group" role="group" aria-label="Weeklies">
        <button aria-pressed={bench.context.weeklies} onclick={() => (bench.context.weeklies = true)}>all</button>
        <button aria-pressed={!bench.context.weeklies} onclick={() => (bench.context.weeklies = false)}>monthly</button>
      </div>
    </header>
    <div class="flex min-h-0 flex-1 px-2">
      {#if term}<Chart
          figure={term}
          name="term-structure"
          label="Term structure of {bench.context.symbol}"
          onchoose={choose}
        />{/if}
    </div>
    <!-- Of one height, so that the chart does not jump while the words change. -->
    <div class="h-[92px] overflow-hidden p-2 pt-1 xl:h-[76px]">
      {#if termWords}<Sentence sentence={termWords} />{/if}
    </div>
  </section>
  <section class="panel flex-[4]" aria-label={PANELS[bench.context.panel]}>
    <header class="flex items-center gap-2.5 px-3 pt-2 pb-1">
      <h2 class="text-[15px] font-bold">{PANELS[bench.context.panel]}</h2>
      <span class="flex-1"></span>
      <div class="toggle-group" role="group" aria-label="Lower panel">
        {#each SURFACE_PANELS as panel (panel)}
          <button
            aria-pressed={bench.context.panel === panel}
            onclick={() => (bench.context.panel = panel)}
            title={PANELS[panel]}>{panel}</button
          >
        {/each}
      </div>
    </header>
    {#if bench.context.panel === 'density'}
      <Density />
    {:else if bench.context.panel === 'arbitrage'}
      <ArbitrageList />
    {:else if bench.context.panel === 'aside'}
      <div class="min-h-0 flex-1 overflow-auto">
        {#if fits.every(({ aside, expiryAside }) => aside.length === 0 && !expiryAside)}
          <p class="p-3 text-soft">Every quote with a vol is in use.</p>
        {/if}
        <AsideList />
      </div>
    {:else}
      <ExpiryTable {fits} lit={lit?.slice ?? null} />
    {/if}
  </section>
</div>

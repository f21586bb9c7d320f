<script lang="ts">
  import { quantileOf, expiryName } from '@umwelt/core';
  import { Chart, HeldRange } from '$lib/charts';
  import {
    comingEvents,
    holdTerm,
    readVol,
    termExpiries,
    termFigure,
    termLines,
    termMoving,
    type TermExpiry,
  } from './charts/term';
  import { timedEvents } from '$lib/data/events';
  import { type Beside } from './charts/beside';
  import { termBandOf, type Band } from '$lib/film';
  import { figures, readingWords, termSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import {
    EXPIRY_CLASSES,
    lastBarIndex,
    realizedOver,
    TERM_LAYERS,
    useTheme,
    useWorkbench,
    type TermReading,
  } from '$lib/state';
  import { sessionsBefore } from './lookback';

  let { onexpiry, beside }: { onexpiry: (mark: unknown[]) => void; beside: readonly Beside[] } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };

  const LAYER_NAMES = { steps: 'forward', maturities: 'fixed', realized: 'realized', band: 'band' } as const;
  const LAYER_TITLES = {
    steps: 'forward vol between one expiry and the next, as steps',
    maturities: 'vol at 7, 30, 60, 90, 180 and 360 days, between expiries',
    realized: 'realized vol over as many of the last sessions as are left to each expiry (Yang–Zhang)',
    band: 'ATM vol in the year before: 5 to 95 %, 25 to 75 %, the middle',
  } as const;
  const CLASS_LETTERS = { weekly: 'w', monthly: 'm', quarterly: 'q' } as const;
  const DELTAS = [5, 10, 15, 20, 25, 30, 35, 40, 45];
  const READINGS: readonly TermReading[] = [
    ...DELTAS.map((delta): TermReading => `put${delta}`),
    'atm',
    ...DELTAS.toReversed().map((delta): TermReading => `call${delta}`),
  ];
  const readings = $derived(READINGS.includes(bench.context.reading) ? READINGS : [...READINGS, bench.context.reading]);

  const shown = $derived(bench.shown);
  const frame = $derived(bench.frame);
  const variance = $derived(bench.summary?.varianceIndex ?? NaN);
  const litExpiry = $derived(bench.lit && expiryName(bench.lit));

  /** What the past gave, now and when the figure was drawn last: what plays has its own. */
  let band = $state.raw<Band | null>(null);
  let stillBand = $state.raw<Band | null>(null);
  const hasBand = $derived(bench.context.layers.includes('band') && bench.context.reading === 'atm');
  $effect(() => {
    if (!hasBand) {
      band = stillBand = null;
      return;
    }
    void bench.film.edition;
    const expiries = termExpiries<TermExpiry>(bench.expiries, bench.calendar, bench.context.classes);
    let isWanted = true;
    const [days, now] = [expiries.map((one) => one.days), expiries.map((one) => readVol(one, 'atm'))];
    void termBandOf(sessionsBefore(bench), Float64Array.from(days), Float64Array.from(now)).then((found) => {
      if (!isWanted) return;
      band = found;
      if (!frame) stillBand = found;
    });
    return () => (isWanted = false);
  });

  const events = $derived(timedEvents(bench.current?.events ?? [], bench.calendar));
  const view = $derived({
    symbol: bench.context.symbol ?? '',
    calendar: bench.calendar,
    classes: bench.context.classes,
    reading: bench.context.reading,
    layers: bench.context.layers,
    events,
    ghost: bench.shownGhost?.slices.map(({ fit }) => fit) ?? null,
    litExpiry,
    tokens: theme.tokens,
    ranges,
  });
  /** What plays has its own. */
  let stillBeside = $state.raw<readonly Beside[]>([]);
  $effect(() => {
    if (!bench.player.isPlaying) stillBeside = beside;
  });
  const heldOf = (found: Band | null) => (found && found.sessions > 0 ? found : null);
  const realizedAt = (lastBar: number) => (sessions: number) =>
    bench.bars ? realizedOver(bench.bars, lastBar, sessions) : NaN;

  /** Share of the realized vols that may lie under the axes, and over them, while it plays. */
  const OUTSIDE = 0.05;
  /** Another one whenever the axes were made to hold what plays. */
  const held = $derived.by(() => {
    const { played, current, calendar } = bench;
    if (played.length === 0 || !current) return played;
    const rest = { ...view, beside: [], ghost: null };
    const lines = played.map(({ expiries, instant }) =>
      termLines({ ...rest, expiries, realizedVol: realizedAt(lastBarIndex(calendar, current.history, instant)) }),
    );
    // Realized vols of a few days jump: the most of them is held, so that the implied ones are not flattened.
    const realized = lines.flatMap((line) => line.realized.vols.filter(Number.isFinite)).sort((a, b) => a - b);
    const most = realized.length > 0 ? [OUTSIDE, 1 - OUTSIDE].map((share) => quantileOf(realized, share)) : [];
    holdTerm(
      view,
      lines.map((line) => ({ ...line, realized: { days: [], vols: [] } })),
      most,
    );
    return played;
  });
  const figure = $derived.by(() => {
    void held;
    return shown && bench.current
      ? termFigure({
          ...view,
          band: heldOf(stillBand),
          isPlaying: bench.player.isPlaying,
          beside: stillBeside,
          instant: shown.snapshot.instant,
          expiries: bench.shownExpiries,
          realizedVol: realizedAt(bench.shownBar),
        })
      : null;
  });
  const moving = $derived.by(() => {
    if (!frame) return null;
    const input = {
      ...view,
      band: heldOf(band),
      beside,
      instant: frame.instant,
      expiries: frame.expiries,
      realizedVol: realizedAt(bench.lastBar),
    };
    return termMoving(input, termLines(input));
  });

  const sentence = $derived.by(() => {
    const { summary, current } = bench;
    if (!summary || !current) return null;
    const [next] = comingEvents(events, Date.parse(summary.asof), Infinity);
    return termSentence(summary.termSlope ?? NaN, summary.iv30 ?? NaN, summary.iv90 ?? NaN, next ?? null);
  });

  function toggle<T extends string>(held: readonly T[], one: T, all: readonly T[]): T[] {
    return all.filter((other) => (other === one ? !held.includes(one) : held.includes(other)));
  }

  /** Without any class there would be nothing to show. */
  function toggleClass(one: (typeof EXPIRY_CLASSES)[number]): void {
    const next = toggle(bench.context.classes, one, EXPIRY_CLASSES);
    if (next.length > 0) bench.context.classes = next;
  }
</script>

<section class="panel min-h-0 flex-[5]" aria-label="Term structure">
  <header class="flex items-center gap-2 px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold whitespace-nowrap">Term structure</h2>
    <span
      class="min-w-0 flex-1 truncate text-soft"
      title="the 30-day variance index by the strip of options, over {readingWords(bench.context.reading)} vol by days"
      >{Number.isFinite(variance) ? `index ${figures.fixed(variance, 1)}` : 'by days'}</span
    >
    <div class="toggle-group" role="group" aria-label="Expiries of the term structure">
      {#each EXPIRY_CLASSES as one (one)}
        <button
          aria-pressed={bench.context.classes.includes(one)}
          aria-label={one}
          title="{one} expiries"
          onclick={() => toggleClass(one)}>{CLASS_LETTERS[one]}</button
        >
      {/each}
    </div>
  </header>
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pb-1 text-[12px]">
    <select class="choice" bind:value={bench.context.reading} aria-label="Vol of the term structure">
      {#each readings as reading (reading)}<option value={reading}>{readingWords(reading)}</option>{/each}
    </select>
    <div class="toggle-group" role="group" aria-label="Beside the vols">
      {#each TERM_LAYERS as layer (layer)}
        <button
          aria-pressed={bench.context.layers.includes(layer)}
          disabled={layer === 'band' && bench.context.reading !== 'atm'}
          title={LAYER_TITLES[layer]}
          onclick={() => (bench.context.layers = toggle(bench.context.layers, layer, TERM_LAYERS))}
          >{LAYER_NAMES[layer]}</button
        >
      {/each}
    </div>
  </div>
  <div class="flex min-h-0 flex-1 px-2">
    {#if figure && bench.expiries.some(({ curve }) => curve !== null)}<Chart
        {figure}
        {moving}
        name="term-structure"
        label="Term structure of {bench.context.symbol}"
        onchoose={onexpiry}
      />{:else if figure}<p class="m-auto text-soft">No expiry has a curve at this moment.</p>{/if}
  </div>
  <!-- Of one height, so that the chart does not jump while the words change. -->
  <div class="h-[74px] flex-none overflow-hidden p-2 pt-1">
    {#if sentence}<Sentence {sentence} />{/if}
  </div>
</section>

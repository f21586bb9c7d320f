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
  import { Loaded, lastBarIndex, realizedOver, useTheme, useWorkbench, useParams } from '$lib/state';
  import { sessionsBefore } from './lookback';
  import { EXPIRY_CLASSES, PARAMS, TERM_LAYERS, type TermReading } from './params';
  import { Toggles } from '$lib/ui';

  let { onexpiry, beside }: { onexpiry: (mark: unknown[]) => void; beside: readonly Beside[] } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
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
  const readings = $derived(READINGS.includes(params.reading) ? READINGS : [...READINGS, params.reading]);

  const shown = $derived(bench.snapshot.shown);
  const frame = $derived(bench.playback.frame);
  const variance = $derived(bench.moment.summary?.varianceIndex ?? NaN);
  const litExpiry = $derived(bench.focus.lit && expiryName(bench.focus.lit));

  /** What the past gave, now and when the figure was drawn last: what plays has its own. */
  let stillBand = $state.raw<Band | null>(null);
  const hasBand = $derived(params.layers.includes('band') && params.reading === 'atm');
  const banding = new Loaded<Band | null>(
    () => {
      if (!hasBand) return null;
      void bench.playback.film.edition;
      const expiries = termExpiries<TermExpiry>(bench.snapshot.expiries, bench.market.calendar, params.classes);
      const [days, now] = [expiries.map((one) => one.days), expiries.map((one) => readVol(one, 'atm'))];
      const past = sessionsBefore(bench.market.current, bench.moment);
      return termBandOf(past, Float64Array.from(days), Float64Array.from(now));
    },
    (found) => {
      if (!frame) stillBand = found;
    },
  );
  const band = $derived(banding.value);

  const events = $derived(timedEvents(bench.market.current?.events ?? [], bench.market.calendar));
  const view = $derived({
    symbol: bench.context.symbol ?? '',
    calendar: bench.market.calendar,
    classes: params.classes,
    reading: params.reading,
    layers: params.layers,
    events,
    ghost: bench.snapshot.ghost?.slices.map(({ fit }) => fit) ?? null,
    litExpiry,
    tokens: theme.tokens,
    ranges,
  });
  /** What plays has its own. */
  let stillBeside = $state.raw<readonly Beside[]>([]);
  $effect(() => {
    if (!bench.playback.isPlaying) stillBeside = beside;
  });
  const heldOf = (found: Band | null) => (found && found.sessions > 0 ? found : null);
  const realizedAt = (lastBar: number) => (sessions: number) =>
    bench.market.bars ? realizedOver(bench.market.bars, lastBar, sessions) : NaN;

  /** Share of the realized vols that may lie under the axes, and over them, while it plays. */
  const OUTSIDE = 0.05;
  /** Another one whenever the axes were made to hold what plays. */
  const held = $derived.by(() => {
    const { played } = bench.playback;
    const { current, calendar } = bench.market;
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
    return shown && bench.market.current
      ? termFigure({
          ...view,
          band: heldOf(stillBand),
          isPlaying: bench.playback.isPlaying,
          beside: stillBeside,
          instant: shown.snapshot.instant,
          expiries: bench.snapshot.quoted,
          realizedVol: realizedAt(bench.snapshot.lastBar),
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
      realizedVol: realizedAt(bench.moment.lastBar),
    };
    return termMoving(input, termLines(input));
  });

  const sentence = $derived.by(() => {
    const { summary } = bench.moment;
    const { current } = bench.market;
    if (!summary || !current) return null;
    const [next] = comingEvents(events, Date.parse(summary.asof), Infinity);
    return termSentence(summary.termSlope ?? NaN, summary.iv30 ?? NaN, summary.iv90 ?? NaN, next ?? null);
  });

  function toggle<T extends string>(held: readonly T[], one: T, all: readonly T[]): T[] {
    return all.filter((other) => (other === one ? !held.includes(one) : held.includes(other)));
  }

  /** Without any class there would be nothing to show. */
  function toggleClass(one: (typeof EXPIRY_CLASSES)[number]): void {
    const next = toggle(params.classes, one, EXPIRY_CLASSES);
    if (next.length > 0) params.classes = next;
  }
</script>

<section class="panel min-h-0 flex-1" aria-label="Term structure">
  <header class="flex items-center gap-2 px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold whitespace-nowrap">Term structure</h2>
    <span
      class="min-w-0 flex-1 truncate text-soft"
      title="the 30-day variance index by the strip of options, over {readingWords(params.reading)} vol by days"
      >{Number.isFinite(variance) ? `index ${figures.fixed(variance, 1)}` : 'by days'}</span
    >
    <Toggles
      label="Expiries of the term structure"
      options={EXPIRY_CLASSES}
      words={(one) => CLASS_LETTERS[one]}
      names={(one) => one}
      titles={(one) => `${one} expiries`}
      isOn={(one) => params.classes.includes(one)}
      onchoose={toggleClass}
    />
  </header>
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pb-1 text-[12px]">
    <select class="choice" bind:value={params.reading} aria-label="Vol of the term structure">
      {#each readings as reading (reading)}<option value={reading}>{readingWords(reading)}</option>{/each}
    </select>
    <Toggles
      label="Beside the vols"
      options={TERM_LAYERS}
      words={(layer) => LAYER_NAMES[layer]}
      titles={(layer) => LAYER_TITLES[layer]}
      isOn={(layer) => params.layers.includes(layer)}
      isDisabled={(layer) => layer === 'band' && params.reading !== 'atm'}
      onchoose={(layer) => (params.layers = toggle(params.layers, layer, TERM_LAYERS))}
    />
  </div>
  <div class="flex min-h-0 flex-1 px-2">
    {#if figure && bench.snapshot.expiries.some(({ curve }) => curve !== null)}<Chart
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

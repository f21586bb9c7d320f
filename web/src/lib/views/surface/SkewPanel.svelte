<script lang="ts">
  import { reasonName, type Curve, expiryName, isSameExpiry } from '@umwelt/core';
  import { Chart, HeldRange } from '$lib/charts';
  import { holdSkew, skewFigure, skewMoving } from './charts/skew';
  import { type Beside, comparedAt } from './charts/beside';
  import { skewBandOf, type Band, type Frame } from '$lib/film';
  import {
    bandWords,
    comparedSentence,
    CURVE_WORDS,
    fitLine,
    lackSentence,
    momentDay,
    skewSentence,
  } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, expiryIndex, stepAlong, useTheme, useWorkbench, useParams } from '$lib/state';
  import { AXIS_TITLES } from './axes';
  import BorrowEditor from './BorrowEditor.svelte';
  import AxisChoice from './AxisChoice.svelte';
  import BesideChoice from './BesideChoice.svelte';
  import type { Comparison } from './comparison.svelte';
  import MainTabs from './MainTabs.svelte';
  import { contractAt, focusAt } from './pointed';
  import { sessionsBefore } from './lookback';
  import { hiddenOf } from './hidden';
  import { PARAMS, SKEW_SCALES, SKEW_SIDES } from './params';
  import { Toggles } from '$lib/ui';

  let { onexpiry, comparison }: { onexpiry: (mark: unknown[]) => void; comparison: Comparison } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };

  const SIDE_NAMES = { otm: 'out of the money', call: 'calls', put: 'puts', both: 'both sides' } as const;
  const SCALE_TITLES = {
    vol: 'vol in per cent',
    shape: 'vol over the one at the money, points: the shape without the level',
    variance: 'total variance σ²T',
  } as const;

  /** Whether a click on a mark sets it aside, or brings it back, rather than focusing it. */
  let isExcluding = $state(false);
  /** Whether somebody is looking for a curve to borrow, and the one that is tried. */
  let isBorrowing = $state(false);
  let draft = $state.raw<Curve | null>(null);

  const shown = $derived(bench.snapshot.shown);
  const lit = $derived(bench.focus.lit);
  const frame = $derived(bench.playback.frame);
  const ghost = $derived(bench.snapshot.ghost);
  const fits = $derived(bench.snapshot.expiries);
  const at = $derived(frame ? focusOf(frame) : (lit?.slice ?? -1));
  const fit = $derived(fits[at] ?? null);
  const stillFit = $derived(lit && shown ? shown.snapshot.slices[lit.slice]!.fit : null);
  const fitWords = $derived(
    frame ? 'fitted curves' : stillFit ? fitLine(stillFit) : 'out-of-the-money mids with bid–ask, fitted curves',
  );
  const fitTitle = $derived(stillFit?.curve && !frame ? CURVE_WORDS[stillFit.curve.kind] : undefined);

  function focusOf({ expiries }: Frame): number {
    return expiryIndex(expiries, bench.context);
  }

  /** Idle delay before the quotes of all expiries are drawn, in milliseconds. */
  const REST_MS = 250;
  let restedAt = $state.raw('');
  const moment = $derived(shown ? `${shown.snapshot.symbol} ${shown.snapshot.asof}` : '');
  $effect(() => {
    const now = moment;
    const timer = setTimeout(() => (restedAt = now), REST_MS);
    return () => clearTimeout(timer);
  });

  /** What the past gave, now and when the figure was drawn last: what plays has its own. */
  let stillBand = $state.raw<Band | null>(null);
  const isShape = $derived(params.scale === 'shape');
  const banding = new Loaded<Band | null>(
    () => {
      if (!params.hasBand || !fit || !(fit.years > 0)) return null;
      void bench.playback.film.edition;
      const now = fit.curve ? { curve: fit.curve, atmVol: fit.atmVol } : null;
      return skewBandOf(sessionsBefore(bench.market.current, bench.moment), { years: fit.years, isShape, now });
    },
    (found) => {
      if (!frame) stillBand = found;
    },
  );
  const band = $derived(banding.value);

  /** What plays has its own. */
  let stillBeside = $state.raw<readonly Beside[]>([]);
  $effect(() => {
    if (!bench.playback.isPlaying) stillBeside = comparison.beside;
  });
  const heldOf = (found: Band | null) => (found && found.sessions > 0 ? found : null);
  const view = $derived({
    axis: params.axis,
    scale: params.scale,
    isLog: params.isLog && !isShape,
    hidden: hiddenOf(bench.snapshot.expiries, params),
    decimals: bench.market.decimals,
    tokens: theme.tokens,
    ranges,
  });
  /** Another one whenever the axes were made to hold what plays. */
  const held = $derived.by(() => {
    const { played } = bench.playback;
    if (played.length === 0) return played;
    const framed = shown?.snapshot.slices[bench.focus.current?.slice ?? 0];
    holdSkew({ ...view, band: params.hasBand }, framed, [...played], focusOf);
    return played;
  });
  const hasCurves = $derived(fits.some(({ curve }) => curve !== null));
  const figure = $derived.by(() => {
    void held;
    return shown
      ? skewFigure({
          ...view,
          band: heldOf(stillBand),
          beside: stillBeside,
          draft: isBorrowing && !frame ? draft : null,
          snapshot: shown.snapshot,
          values: shown.values,
          ghost,
          sides: params.sides,
          hasMisses: params.hasMisses && !bench.playback.isPlaying,
          lit,
          framed: bench.focus.current?.slice ?? 0,
          isDetailed: restedAt === moment || bench.moment.live !== null,
        })
      : null;
  });
  const moving = $derived(
    frame
      ? skewMoving(frame, ghost?.slices ?? null, at, { ...view, band: heldOf(band), beside: comparison.beside })
      : null,
  );

  /** The same expiry at the ghost; without one the sentence takes the 30-day measure of four weeks ago. */
  const before = $derived.by(() => {
    if (!ghost || !fit) return null;
    const then = ghost.slices.find((slice) => isSameExpiry(slice, fit))?.fit;
    return then
      ? { day: momentDay(ghost.instant, bench.market.calendar.zone), riskReversal25: then.riskReversal25 }
      : null;
  });
  const MONTH = 20;
  const month = $derived.by(() => {
    const then = bench.market.current?.snapshots[stepAlong(bench.moment.stops, bench.moment.index, -MONTH)];
    if (!then || !bench.moment.summary) return null;
    const day = momentDay(Date.parse(then.asof), bench.market.calendar.zone);
    return { day, then: then.riskReversal25 ?? NaN, now: bench.moment.summary.riskReversal25 ?? NaN };
  });
  const sentence = $derived.by(() => {
    if (!fit) return null;
    const lack = lackSentence(
      fit,
      bench.market.underlying?.kind === 'future' ? NaN : (bench.moment.summary?.price ?? NaN),
    );
    if (lack) return lack;
    const others = comparedAt(comparison.beside, fit);
    if (others.length > 0) return comparedSentence(fit, others);
    const said = skewSentence(fits, fit, before, heldOf(band) ? null : month);
    return heldOf(band) ? { ...said, rest: `${said.rest} ${bandWords(band!, isShape)}` } : said;
  });

  function choose(mark: unknown[]): void {
    const state = mark[3];
    const { strike, side } = focusAt(mark) ?? {};
    const judged = shown?.snapshot.slices.find((one) => expiryName(one) === mark[0])?.fit;
    if (isExcluding && judged && strike !== undefined && side !== undefined) {
      const aside = judged.aside.find((one) => one.strike === strike && one.side === side);
      const isByHand = aside !== undefined && reasonName(aside.reason) === 'by-hand';
      const decision = state !== 'aside' ? 'aside' : isByHand ? null : 'use';
      void bench.exclusions.decide({ expiry: judged.expiry, settlement: judged.settlement, strike, side }, decision);
      return;
    }
    onexpiry(mark);
  }

  interface Switch {
    name: string;
    title: string;
    isOn: boolean;
    isDisabled?: boolean;
    flip: () => void;
  }
  const switches: readonly Switch[] = $derived([
    {
      ...{ name: 'log', title: 'a logarithmic scale', isOn: view.isLog, isDisabled: isShape },
      flip: () => (params.isLog = !params.isLog),
    },
    {
      ...{ name: 'band', isOn: params.hasBand, flip: () => (params.hasBand = !params.hasBand) },
      title: 'what the year before gave at this time to expiry: 5 to 95 %, 25 to 75 %, the middle',
    },
    {
      ...{ name: 'misses', isOn: params.hasMisses, flip: () => (params.hasMisses = !params.hasMisses) },
      title: 'how far the quotes are from the curve, with half their spread',
    },
    {
      ...{ name: 'borrow', isOn: isBorrowing, isDisabled: bench.playback.isPlaying },
      ...{ title: 'take the curve of this expiry from another one', flip: () => (isBorrowing = !isBorrowing) },
    },
    {
      ...{ name: 'set aside', isOn: isExcluding, isDisabled: bench.moment.live !== null },
      title: 'a click on a mark sets it aside, on a cross brings it back',
      flip: () => (isExcluding = !isExcluding),
    },
  ]);
</script>

<section class="panel min-h-0 min-w-0 flex-1" aria-label="Skew">
  <header class="flex flex-wrap items-center gap-x-2.5 gap-y-1 px-3 pt-2 pb-1">
    <MainTabs />
    <span class="min-w-16 flex-1 truncate text-soft" title={fitTitle}
      >{comparison.words || fitWords}{ghost ? ', ghost dashed' : ''}</span
    >
    <AxisChoice />
  </header>
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pb-1 text-[12px]">
    <label class="flex items-center gap-1"
      ><span class="sr-only">quotes</span>
      <select class="choice" bind:value={params.sides} aria-label="Quotes of the skew">
        {#each SKEW_SIDES as sides (sides)}<option value={sides}>{SIDE_NAMES[sides]}</option>{/each}
      </select>
    </label>
    <Toggles label="Upright" options={SKEW_SCALES} titles={(scale) => SCALE_TITLES[scale]} bind:value={params.scale} />
    <Toggles
      label="More"
      options={switches}
      words={(one) => one.name}
      titles={(one) => one.title}
      isOn={(one) => one.isOn}
      isDisabled={(one) => one.isDisabled ?? false}
      onchoose={(one) => one.flip()}
    />
  </div>
  {#if isBorrowing && lit && shown && !bench.playback.isPlaying}
    <BorrowEditor
      slice={shown.snapshot.slices[lit.slice]!}
      values={shown.values[lit.slice]!}
      bind:draft
      onclose={() => (isBorrowing = false)}
    />
  {/if}
  <div class="flex min-h-0 flex-1 px-2">
    {#if figure && hasCurves}
      <Chart
        {figure}
        {moving}
        name="skew"
        label="Skew of {bench.context.symbol}"
        onpoint={(mark) => (bench.focus.pointed = contractAt(mark, bench.context.symbol))}
        onchoose={choose}
      />
    {:else}
      <p class="m-auto text-soft">
        {bench.problem ??
          (figure
            ? 'No expiry has a curve at this moment.'
            : bench.market.current && bench.moment.index < 0
              ? 'No chain is held at this moment.'
              : 'Loading …')}
      </p>
    {/if}
  </div>
  <div class="figures flex justify-between px-11 text-[11px]! text-soft">
    <span>▽ puts</span><span>{AXIS_TITLES[params.axis]}</span><BesideChoice /><span>calls △</span>
  </div>
  <div class="h-[78px] flex-none overflow-hidden p-2 xl:h-[62px]">
    {#if sentence}<Sentence {sentence} />{/if}
  </div>
</section>

<script lang="ts">
  import { expiryClass } from '@umwelt/core';
  import { Chart, comingEvents, depthColor, HeldRange, skewFigure, termFigure } from '$lib/charts';
  import { offerTable } from '$lib/exports';
  import { expiryAsideWords, figures, momentDay, shortDay, skewSentence, termSentence } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { AXES, useTheme, useWorkbench, stepAlong } from '$lib/state';
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
  const axisNames = { strike: 'strike', standardized: 'standardized' };

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
    const [expiry, strike, side] = mark;
    if (typeof expiry !== 'string') return;
    bench.setFocus(
      typeof strike === 'number' ? { expiry, strike, side: side === 'call' ? 'call' : 'put' } : { expiry },
    );
  }
</script>

<section class="panel min-w-0 flex-[7] xl:flex-[8]" aria-label="Skew">
  <header class="flex items-center gap-2.5 px-3 py-2">
    <h2 class="text-[15px] font-bold">Skew</h2>
    <span class="min-w-0 truncate text-soft">OTM mids with bid–ask, fitted curves{ghost ? ', ghost dashed' : ''}</span>
    <span class="flex-1"></span>
    <div class="toggle-group" role="group" aria-label="Axis">
      {#each AXES as axis (axis)}
        <button aria-pressed={bench.context.axis === axis} onclick={() => (bench.context.axis = axis)}
          >{axisNames[axis]}</button
        >
      {/each}
    </div>
  </header>
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
    <span>▽ puts</span><span>{bench.context.axis === 'strike' ? 'strike' : 'ln(K/F) ÷ σ√T'}</span><span>calls △</span>
  </div>
  <div class="h-[62px] p-2">
    {#if sentence}<Sentence {sentence} />{/if}
  </div>
</section>

<div class="flex min-h-0 min-w-0 flex-[5] flex-col gap-2">
  <section class="panel flex-[5]" aria-label="Term structure">
    <header class="flex items-center gap-2.5 px-3 py-2">
      <h2 class="text-[15px] font-bold whitespace-nowrap">Term structure</h2>
      <span class="min-w-0 truncate text-soft">ATM vol by days</span>
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
  <section class="panel flex-[4]" aria-label="Expiries">
    <header class="flex items-baseline gap-2.5 px-3 pt-2 pb-1">
      <h2 class="text-[15px] font-bold">Expiries</h2>
      <span class="truncate text-soft">a swatch shows or hides its skew</span>
    </header>
    <div class="min-h-0 flex-1 overflow-auto">
      <table class="dense w-full border-collapse" data-testid="expiries">
        <thead>
          <tr>
            <th class="head-cell pl-3! text-left!">expiry</th>
            <th class="head-cell" title="calendar days">days</th>
            <th class="head-cell" title="curve at the forward, points">ATM</th>
            <th class="head-cell" title="25-delta call less put, points">RR 25</th>
            <th class="head-cell hidden xl:table-cell" title="25-delta wings over the middle, points">BF 25</th>
            <th class="head-cell" title="at-the-money straddle">move</th>
            <th class="head-cell pr-3!" title="contracts used, of all quoted">used</th>
          </tr>
        </thead>
        <tbody>
          {#each fits as fit, i (fit.expiry + fit.settlement)}
            {@const isHidden = bench.context.hidden.includes(fit.expiry)}
            <tr
              class="h-[24px] cursor-pointer border-b border-line hover:bg-band {i === lit?.slice
                ? 'bg-band font-semibold'
                : ''}"
              aria-selected={i === lit?.slice}
              onclick={() => bench.setFocus({ expiry: fit.expiry })}
            >
              <td class="pl-3 whitespace-nowrap">
                <button
                  class="mr-1 inline-grid size-4 cursor-pointer place-items-center rounded-[2px] border align-[-3px]"
                  style="border-color: {depthColor(fit.days, theme.tokens)}; background: {isHidden
                    ? 'transparent'
                    : depthColor(fit.days, theme.tokens)}"
                  aria-pressed={!isHidden}
                  aria-label="{isHidden ? 'Show' : 'Hide'} the skew of {shortDay(fit.expiry)}"
                  title={isHidden ? 'Show in the skew' : 'Hide from the skew'}
                  onclick={(event) => {
                    event.stopPropagation();
                    bench.toggleExpiry(fit.expiry);
                  }}
                ></button>
                <span
                  class="figures {fit.expiryAside ? 'text-loss line-through' : ''}"
                  title={fit.expiryAside ? expiryAsideWords(fit.expiryAside) : undefined}>{shortDay(fit.expiry)}</span
                >
                <span class="text-[11px] font-normal text-soft" title={expiryClass(bench.calendar, fit.expiry)}
                  >{expiryClass(bench.calendar, fit.expiry).charAt(0)}</span
                >
              </td>
              <td class="cell">{figures.days(fit.days)}</td>
              <td class="cell">{figures.vol(fit.atmVol)}</td>
              <td class="cell">{figures.volChange(fit.riskReversal25)}</td>
              <td class="cell hidden xl:table-cell">{figures.volChange(fit.butterfly25)}</td>
              <td class="cell">{figures.plusMinus(fit.straddleMove, fit.straddleMove >= 100 ? 0 : 2)}</td>
              <td class="cell pr-3!"
                >{figures.count(fit.usable)}<span class="hidden text-soft xl:inline"
                  >/{figures.count(fit.contracts)}</span
                ></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  </section>
</div>

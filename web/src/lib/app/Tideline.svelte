<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import { dayOf } from '@umwelt/core';
  import { exactMoment, figures, longMoment, momentDay, shortDay } from '$lib/formats';
  import { linePath } from '$lib/charts/line-path';
  import { nearestIndex, stepAlong, useWorkbench } from '$lib/state';
  import { monthStarts, positions } from '$lib/ui';

  const bench = useWorkbench();

  const HEIGHT = 62;
  const TOP = 14;
  const BOTTOM = 40;
  const MARGIN = 8;
  const LABEL_APART = 70;

  let width = $state(600);
  let strip = $state<SVGSVGElement>();
  let dragged = $state<'asof' | 'ghost' | null>(null);

  const snapshots = $derived(bench.market.current?.snapshots ?? []);
  const instants = $derived(snapshots.map((row) => Date.parse(row.asof)));
  /** A session is one point of the line, however many moments it has. */
  const ivs = $derived(bench.moment.stops.map((at) => snapshots[at]!.iv30 ?? NaN));
  const days = $derived(instants.map((instant) => dayOf(bench.market.calendar, instant)));
  const xs = $derived(positions(instants, width, MARGIN));
  const stopXs = $derived(bench.moment.stops.map((at) => xs[at]!));
  const path = $derived(linePath(ivs, stopXs, TOP, BOTTOM));
  const area = $derived(path ? `${path}L${stopXs.at(-1)} ${BOTTOM + 4}L${stopXs[0]} ${BOTTOM + 4}Z` : '');
  const labels = $derived(monthStarts(days, xs, LABEL_APART));
  const marks = $derived(
    (bench.market.current?.events ?? []).flatMap((event) => {
      const at = days.indexOf(event.date);
      return at < 0 ? [] : [{ ...event, x: xs[at]! }];
    }),
  );
  const zone = $derived(bench.market.calendar.zone);
  const ghostDay = $derived(bench.moment.ghostIndex >= 0 ? momentDay(instants[bench.moment.ghostIndex]!, zone) : null);

  function moveTo(event: PointerEvent): void {
    if (!dragged || !strip || xs.length === 0) return;
    const at = bench.moment.stops[nearestIndex(stopXs, event.clientX - strip.getBoundingClientRect().left)]!;
    if (dragged === 'asof') bench.moment.goTo(at);
    else bench.moment.setGhost(at);
  }

  function grab(event: PointerEvent): void {
    if (!strip || xs.length === 0) return;
    const x = event.clientX - strip.getBoundingClientRect().left;
    const REACH = 7;
    const isGhost =
      bench.moment.ghostIndex >= 0 &&
      Math.abs(xs[bench.moment.ghostIndex]! - x) < REACH &&
      bench.moment.ghostIndex !== bench.moment.index;
    dragged = isGhost ? 'ghost' : 'asof';
    bench.playback.isPlaying = false;
    strip.setPointerCapture(event.pointerId);
    moveTo(event);
  }

  function stepKey(event: KeyboardEvent, which: 'asof' | 'ghost'): void {
    const steps = { ArrowLeft: -1, ArrowRight: 1, PageDown: -5, PageUp: 5, Home: -Infinity, End: Infinity }[event.key];
    if (steps === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const from = which === 'asof' ? bench.moment.index : bench.moment.ghostIndex;
    const to = stepAlong(bench.moment.stops, from, steps);
    if (which === 'asof') bench.moment.goTo(to);
    else bench.moment.setGhost(to);
  }
</script>

<section class="flex h-[66px] flex-none items-stretch border-b border-line bg-panel" aria-label="Tideline">
  <div class="relative min-w-0 flex-1 pl-1.5" bind:clientWidth={width}>
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <svg
      bind:this={strip}
      {width}
      height={HEIGHT}
      class="block cursor-pointer touch-none"
      onpointerdown={grab}
      onpointermove={moveTo}
      onpointerup={() => (dragged = null)}
      onpointercancel={() => (dragged = null)}
    >
      <path d={area} fill="var(--band)" />
      <path d={path} fill="none" stroke="var(--implied)" stroke-width="1.5" />
      <line x1={MARGIN} x2={width - MARGIN} y1={BOTTOM + 4} y2={BOTTOM + 4} stroke="var(--line)" />
      {#each labels as { at, day } (day)}
        <text x={xs[at]} y={HEIGHT - 6} fill="var(--soft)" class="figures" style="font-size: 11px">{shortDay(day)}</text
        >
      {/each}
      {#each marks as mark (mark.date + mark.title)}
        <path d="M{mark.x} 1l4.5 5l-4.5 5l-4.5 -5z" fill="var(--loss)">
          <title
            >{shortDay(mark.date)} · {mark.title}{mark.amount === null
              ? ''
              : ` ${figures.fixed(mark.amount, 2)}`}</title
          >
        </path>
      {/each}
      {#if bench.moment.ghostIndex >= 0}
        <g
          role="slider"
          tabindex="0"
          aria-label="Ghost"
          aria-valuemin={0}
          aria-valuemax={snapshots.length - 1}
          aria-valuenow={bench.moment.ghostIndex}
          aria-valuetext={ghostDay}
          onkeydown={(event) => stepKey(event, 'ghost')}
        >
          <rect x={xs[bench.moment.ghostIndex]! - 6} y="0" width="12" height={BOTTOM + 4} fill="transparent" />
          <line
            x1={xs[bench.moment.ghostIndex]}
            x2={xs[bench.moment.ghostIndex]}
            y1="2"
            y2={BOTTOM + 4}
            stroke="var(--soft)"
            stroke-width="1.5"
            stroke-dasharray="3 3"
          />
        </g>
      {/if}
      {#if bench.moment.index >= 0}
        <g
          role="slider"
          tabindex="0"
          aria-label="As of"
          aria-valuemin={0}
          aria-valuemax={snapshots.length - 1}
          aria-valuenow={bench.moment.index}
          aria-valuetext={longMoment(bench.moment.instant, zone)}
          onkeydown={(event) => stepKey(event, 'asof')}
          data-testid="asof-handle"
        >
          <line
            x1={xs[bench.moment.index]}
            x2={xs[bench.moment.index]}
            y1="2"
            y2={BOTTOM + 4}
            stroke="var(--focus)"
            stroke-width="2"
          />
          <circle cx={xs[bench.moment.index]} cy="9" r="5" fill="var(--focus)" />
        </g>
      {/if}
    </svg>
  </div>
  <div class="flex w-[262px] flex-none flex-col justify-center pr-3 text-right">
    <div class="whitespace-nowrap">
      <span class="text-soft">As of</span>
      <b class="figures text-[13px]! text-focus" data-testid="asof">
        {#if bench.moment.live}<span class="text-gain" title="The feed, between the moments that are stored">●</span
          >&nbsp;{exactMoment(bench.moment.instant, zone)}{:else}{bench.moment.summary
            ? longMoment(bench.moment.instant, zone)
            : '–'}{/if}
      </b>
    </div>
    <div class="mt-1 flex items-center justify-end gap-1 text-[11px] whitespace-nowrap text-soft">
      <button
        class="kbd cursor-pointer kbd-xs"
        title="One session back ([); one moment with shift"
        aria-label="One step back"
        onclick={(event) => (event.shiftKey ? bench.moment.stepMoment(-1) : bench.moment.step(-1))}>[</button
      >
      <button
        class="kbd cursor-pointer kbd-xs"
        title="One session on (]); one moment with shift"
        aria-label="One step on"
        onclick={(event) => (event.shiftKey ? bench.moment.stepMoment(1) : bench.moment.step(1))}>]</button
      >
      step ·
      <button
        class="kbd flex cursor-pointer items-center gap-1 kbd-xs"
        title="Play (space)"
        aria-pressed={bench.playback.isPlaying}
        onclick={() => bench.playback.toggle()}
      >
        {#if bench.playback.isPlaying}<Pause size={10} />pause{:else}<Play size={10} />play{/if}
      </button>
      ·
      <button
        class="kbd cursor-pointer kbd-xs"
        title="Keep another moment in view (m)"
        aria-pressed={ghostDay !== null}
        onclick={() => bench.moment.toggleGhost()}
      >
        {ghostDay ? `ghost ${ghostDay} ×` : 'ghost'}
      </button>
    </div>
  </div>
</section>

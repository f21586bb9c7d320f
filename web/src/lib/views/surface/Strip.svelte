<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import Repeat from '@lucide/svelte/icons/repeat';
  import { linePath } from '$lib/charts';
  import { nearestIndex, PLAY_SPANS, PLAY_SPEEDS, PLAY_STEPS, useWorkbench } from '$lib/state';
  import { STRIP_SERIES, standingOf } from './strip';

  const bench = useWorkbench();

  const HEIGHT = 26;
  const PAD = 3;
  let width = $state(200);

  const snapshots = $derived(bench.market.current?.snapshots ?? []);
  const span = $derived(bench.playback.span);
  /** Where the moment in view stands in the span; before its first when it lies outside. */
  const at = $derived(span.findLastIndex((stop) => stop <= bench.moment.index));
  const xs = $derived(span.map((_, i) => PAD + (i * (width - 2 * PAD)) / Math.max(1, span.length - 1)));
  const lines = $derived(
    STRIP_SERIES.map((series) => {
      const values = span.map((stop) => series.read(snapshots[stop]!));
      return { series, values, path: linePath(values, xs, PAD, HEIGHT - PAD) };
    }),
  );

  function heightOf(values: readonly number[], i: number): number {
    const held = values.filter(Number.isFinite);
    const [low, high] = [Math.min(...held), Math.max(...held)];
    return PAD + ((high - values[i]!) / (high - low || 1)) * (HEIGHT - 2 * PAD);
  }

  let isDragging = false;
  function drag(event: PointerEvent & { currentTarget: SVGSVGElement }): void {
    if (event.type === 'pointerdown') {
      isDragging = true;
      bench.playback.isPlaying = false;
      event.currentTarget.setPointerCapture(event.pointerId);
    }
    if (!isDragging) return;
    const stop = span[nearestIndex(xs, event.clientX - event.currentTarget.getBoundingClientRect().left)];
    if (stop !== undefined) bench.moment.goTo(stop);
  }

  const spanWords = (sessions: number) => (sessions === 0 ? 'all held' : `last ${sessions}`);
</script>

{#snippet choice(
  label: string,
  options: readonly (string | number)[],
  value: string | number,
  words: (option: never) => string,
  take: (text: string) => void,
)}
  <select
    class="cursor-pointer rounded-[5px] border border-line bg-panel px-0.5 py-0 text-[11px]"
    aria-label={label}
    title={label}
    {value}
    onchange={(event) => take(event.currentTarget.value)}
  >
    {#each options as option (option)}<option value={option}>{words(option as never)}</option>{/each}
  </select>
{/snippet}

<section class="panel h-[60px] flex-none flex-row! items-stretch" aria-label="Playback">
  <div class="flex flex-none flex-col justify-center gap-1 px-2">
    <div class="flex items-center gap-1">
      <button
        class="btn h-[20px] min-h-0 px-1.5 btn-xs"
        aria-pressed={bench.playback.isPlaying}
        title="Play and pause (space)"
        aria-label={bench.playback.isPlaying ? 'pause playback' : 'play: start playback'}
        onclick={() => bench.playback.toggle()}
      >
        {#if bench.playback.isPlaying}<Pause size={11} />{:else}<Play size={11} />{/if}
        {bench.playback.isPlaying ? 'pause' : 'play'}
      </button>
      {@render choice(
        'Steps a second',
        PLAY_SPEEDS,
        bench.context.speed,
        (speed: number) => `${speed} a second`,
        (text) => (bench.context.speed = PLAY_SPEEDS.find((speed) => String(speed) === text)!),
      )}
    </div>
    <div class="flex items-center gap-1">
      {@render choice(
        'Step',
        PLAY_STEPS,
        bench.context.playStep,
        (step: string) => (step === 'session' ? 'sessions' : 'moments'),
        (text) => (bench.context.playStep = PLAY_STEPS.find((step) => step === text)!),
      )}
      {@render choice(
        'Range, in sessions',
        PLAY_SPANS,
        bench.context.playSpan,
        spanWords,
        (text) => (bench.context.playSpan = PLAY_SPANS.find((span) => String(span) === text)!),
      )}
      <button
        class="cursor-pointer rounded p-0.5 {bench.context.isLooping
          ? 'bg-ink text-panel'
          : 'text-soft hover:text-ink'}"
        aria-pressed={bench.context.isLooping}
        aria-label="Loop"
        title="Begin again at the end"
        onclick={() => (bench.context.isLooping = !bench.context.isLooping)}><Repeat size={12} /></button
      >
    </div>
  </div>
  {#each lines as { series, values, path } (series.name)}
    {@const value = values[at] ?? NaN}
    {@const standing = standingOf(values, at)}
    <div class="flex min-w-0 flex-1 flex-col justify-center border-l border-line px-1.5">
      <div class="flex items-baseline gap-1.5 text-[11px] whitespace-nowrap">
        <span class="text-soft" title={series.title}>{series.name}</span>
        <b class="figures text-[11.5px]!">{series.write(value, bench.market.decimals)}</b>
        <span class="flex-1"></span>
        {#if standing !== 'within'}<span class="truncate text-loss">◆ {standing} of the range</span>{/if}
      </div>
      <div class="h-[26px]" bind:clientWidth={width}>
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <svg
          {width}
          height={HEIGHT}
          class="block cursor-pointer touch-none"
          onpointerdown={drag}
          onpointermove={drag}
          onpointerup={() => (isDragging = false)}
          onpointercancel={() => (isDragging = false)}
        >
          <path d={path} fill="none" stroke="var({series.color})" stroke-width="1.2" />
          {#if at >= 0}
            <line x1={xs[at]} x2={xs[at]} y1="0" y2={HEIGHT} stroke="var(--focus)" />
            {#if Number.isFinite(value)}<circle
                cx={xs[at]}
                cy={heightOf(values, at)}
                r="2.5"
                fill="var(--focus)"
              />{/if}
          {/if}
        </svg>
      </div>
    </div>
  {/each}
  {#if bench.playback.film.share > 0 && bench.playback.film.share < 1}
    <div
      class="absolute bottom-0 left-0 h-[2px] bg-implied"
      style="width: {100 * bench.playback.film.share}%"
      title="curves of the past are loading"
    ></div>
  {/if}
</section>

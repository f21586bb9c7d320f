<script lang="ts">
  import { onDestroy } from 'svelte';
  import { exactMoment, figures, shortExpiry } from '$lib/formats';
  import { offerTable } from '$lib/exports';
  import { useWorkbench } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import { Toggles } from '$lib/ui';
  import Slider from '$lib/ui/Slider.svelte';
  import type { BookDesk } from './desk.svelte';
  import { STEPS } from './params';
  import { livedSentence, plotOf } from './replay';
  import Sentence from '$lib/formats/Sentence.svelte';

  /** A position lived through again: price with its break-evens, vol, and what it had brought, up to the moment in view. */
  let { desk }: { desk: BookDesk } = $props();

  const bench = useWorkbench();
  const zone = $derived(bench.market.calendar.zone);
  const rows = $derived(desk.replay?.rows ?? []);

  /** Where it has come to while it plays by itself; null where the moment in view says so. */
  let playing = $state<number | null>(null);
  let frame = 0;
  const PER_SECOND = 30;

  /** The last row that is not after the moment in view. */
  const viewed = $derived.by(() => {
    const asof = desk.worth ? Date.parse(desk.worth.asof) : NaN;
    let at = -1;
    rows.forEach((row, i) => {
      if (Date.parse(row.asof) <= asof) at = i;
    });
    return at;
  });
  const head = $derived(Math.min(rows.length - 1, playing ?? viewed));
  const row = $derived(rows[head]);

  /** Goes to the moment of a row, with everything else. */
  function goTo(at: number): void {
    const to = rows[Math.max(0, Math.min(rows.length - 1, at))];
    if (!to) return;
    // Of the underlying that it is on: another one may not be held then.
    const { replay } = desk;
    if (replay && bench.context.symbol !== replay.symbol) bench.address.choose(replay.symbol);
    bench.context.asof = to.asof;
  }

  function stop(): void {
    cancelAnimationFrame(frame);
    if (playing === null) return;
    goTo(playing);
    playing = null;
  }

  function play(): void {
    if (playing !== null) return stop();
    const from = head >= rows.length - 1 ? 0 : Math.max(0, head);
    const begun = performance.now();
    playing = from;
    const next = () => {
      const at = from + Math.floor(((performance.now() - begun) * PER_SECOND) / 1000);
      if (at >= rows.length - 1) {
        playing = rows.length - 1;
        stop();
        return;
      }
      playing = at;
      frame = requestAnimationFrame(next);
    };
    frame = requestAnimationFrame(next);
  }
  onDestroy(() => cancelAnimationFrame(frame));

  let width = $state(600);
  let height = $state(200);
  const plot = $derived(plotOf(rows, width, height));
  const legs = $derived(desk.replay?.legs ?? []);

  offerTable(
    'book-replay',
    () => `${desk.position?.name ?? 'A position'} moment by moment`,
    () =>
      rows.length > 0
        ? {
            columns: [
              { name: 'moment', type: 'instant' },
              ...numberColumns([
                'price',
                'vol',
                'value',
                'profit',
                ...legs.flatMap((_, i) => [`mid_${i + 1}`, `vol_${i + 1}`, `profit_${i + 1}`]),
              ]),
            ],
            rows: rows.map((one) => [
              ...[one.asof, one.price, one.vol, one.value, one.profit],
              ...one.legs.flatMap(({ mid, vol, profit }) => [mid, vol, profit]),
            ]),
          }
        : null,
  );
</script>

{#if desk.params.positionId === 0}
  <p class="m-auto text-soft">Choose a position to live it through again.</p>
{:else if rows.length === 0}
  <p class="m-auto text-soft" role={desk.replayProblem ? 'alert' : undefined}>
    {desk.replayProblem ?? (desk.replay ? 'Nothing is held of it since it was opened.' : 'Loading …')}
  </p>
{:else}
  <div class="flex flex-none items-center gap-2 px-3 pt-1 text-[12px]">
    <b class="truncate">{desk.position?.name ?? ''}</b>
    <button class="btn btn-xs" aria-label="Play the position" onclick={play}
      >{playing === null ? '▷ play' : '❙❙ pause'}</button
    >
    <button class="btn btn-xs" aria-label="A step back" disabled={head <= 0} onclick={() => goTo(head - 1)}>◂</button>
    <button class="btn btn-xs" aria-label="A step on" disabled={head >= rows.length - 1} onclick={() => goTo(head + 1)}
      >▸</button
    >
    <Slider
      label="Moment of the replay"
      bind:value={() => Math.max(0, head), (at) => ((playing = null), goTo(at))}
      min={0}
      max={Math.max(1, rows.length - 1)}
      step={1}
      class="min-w-16 flex-1"
    />
    <span class="figures flex-none" data-testid="replay-moment"
      >{row ? exactMoment(Date.parse(row.asof), zone) : ''}</span
    >
    <Toggles
      label="Steps of the replay"
      options={STEPS}
      words={(one) => (one === 'session' ? 'sessions' : 'all moments')}
      bind:value={desk.params.step}
    />
  </div>
  <div class="flex min-h-0 flex-1 gap-2 px-3 pb-1">
    <div class="min-h-0 min-w-0 flex-1" bind:clientWidth={width} bind:clientHeight={height}>
      <svg
        {width}
        {height}
        role="img"
        aria-label="Price, break-evens, vol and profit of the position"
        data-testid="replay-plot"
      >
        {#each plot.panes as { name, top, bottom, lines, dots, ticks, zero } (name)}
          {#each ticks as { y, words } (y)}
            <line x1={plot.left} x2={plot.right} y1={y} y2={y} stroke="var(--line)" />
            <text x={plot.left - 4} y={y + 3.5} text-anchor="end" class="tick">{words}</text>
          {/each}
          {#if zero !== null}<line x1={plot.left} x2={plot.right} y1={zero} y2={zero} stroke="var(--soft)" />{/if}
          {#each lines as { path, color } (color)}
            <path d={path} fill="none" stroke="var(--{color})" stroke-width="1" opacity="0.3" />
            <path d={path} fill="none" stroke="var(--{color})" stroke-width="1.8" clip-path="url(#lived)" />
          {/each}
          <path
            d={dots}
            fill="none"
            stroke="var(--target)"
            stroke-width="2"
            stroke-linecap="round"
            clip-path="url(#lived)"
          />
          <text x={plot.left + 4} y={top + 10} class="tick">{name}</text>
          <line x1={plot.left} x2={plot.right} y1={bottom} y2={bottom} stroke="var(--line)" />
        {/each}
        <clipPath id="lived"><rect x="0" y="0" width={Math.max(0, plot.x(head) + 1)} {height} /></clipPath>
        <line x1={plot.x(head)} x2={plot.x(head)} y1="0" y2={height} stroke="var(--focus)" stroke-width="1.5" />
      </svg>
    </div>
    <dl
      class="m-0 grid w-56 flex-none grid-cols-[1fr_auto] content-start gap-x-2 overflow-auto text-[11.5px] leading-[16px]"
      data-testid="replay-facts"
    >
      {#if row}
        <dt class="text-soft">price</dt>
        <dd class="figures m-0 text-right">{figures.fixed(row.price, 2)}</dd>
        <dt class="text-soft">vol at the forward</dt>
        <dd class="figures m-0 text-right">{figures.vol(row.vol, 2)}</dd>
        <dt class="text-soft">break-evens then</dt>
        <dd class="figures m-0 text-right">{row.evens.map((one) => figures.fixed(one, 1)).join(', ') || '–'}</dd>
        <dt class="font-semibold">profit</dt>
        <dd class="figures m-0 text-right font-semibold {(row.profit ?? 0) < 0 ? 'text-loss' : 'text-gain'}">
          {figures.signed(row.profit, 0)}
        </dd>
        {#each row.legs as leg, i (i)}
          {@const contract = legs[i]!}
          <dt class="truncate text-soft">
            {leg.quantity === 0 ? '' : `${figures.signed(leg.quantity, 0)} `}{contract.expiry === null
              ? contract.symbol
              : `${shortExpiry({ expiry: contract.expiry, settlement: contract.settlement })} ${figures.strike(contract.strike)} ${contract.side}`}
          </dt>
          <dd class="figures m-0 text-right">
            {leg.mid === null ? '' : `${figures.fixed(leg.mid, 2)} · ${figures.vol(leg.vol, 1)} · `}{figures.signed(
              leg.profit,
              0,
            )}
          </dd>
        {/each}
      {/if}
    </dl>
  </div>
  {#if desk.replay && row}<div class="flex-none px-2 pb-2">
      <Sentence sentence={livedSentence(desk.replay, head)} />
    </div>{/if}
{/if}

<style>
  .tick {
    font-family: var(--font-mono);
    font-size: 10px;
    fill: var(--soft);
  }
</style>

<script lang="ts">
  import { QUALITY_WEIGHTS, sessionMove, underlyingParts, type QualityParts } from '@umwelt/core';
  import { strokeOf } from './charts/history';
  import { forecastOf } from '$lib/film';
  import { figures, shortDay } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import { Loaded, barsTo, useWorkbench, useParams } from '$lib/state';
  import { HORIZON, type HistoryDesk } from './desk.svelte';
  import type { Forecasts } from '$lib/film/forecasts';
  import { DataGrid, type Head } from '$lib/ui';
  import { averageMoveOf } from './sessions';
  import { PARAMS } from './params';

  let { desk }: { desk: HistoryDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const MOVES = 20;

  const write = (kind: string, value: number) =>
    kind !== 'lower' ? figures.vol(value) : figures.fixed(value, params.lower === 'ratio' ? 2 : 1);
  const asked = $derived(params.lookback);
  const short = $derived(desk.standings.find(({ standing }) => standing?.isShort) ?? null);
  const PARTS = { usable: 'usable', spread: 'spread', fit: 'fit', coverage: 'coverage', fresh: 'fresh' } as const;
  const parts = $derived(underlyingParts(bench.snapshot.quoted));

  /** Of the bars that are over; a worker fits them. */
  const forecasts = new Loaded<Forecasts>(() => {
    const { bars } = bench.market;
    const { lastBar } = desk;
    if (!bars || lastBar < 0 || bench.playback.isPlaying) return undefined;
    return forecastOf(barsTo(bars, lastBar), HORIZON);
  });
  const average = $derived(
    desk.sessions && bench.market.bars ? averageMoveOf(desk.sessions, bench.market.bars, MOVES) : NaN,
  );
  const implied = $derived(desk.lines?.implied[0]?.values.at(-1) ?? NaN);

  const HEADS: readonly Head[] = [
    { label: 'series', align: 'left' },
    { label: 'now' },
    { label: 'low', class: 'hidden xl:table-cell' },
    { label: 'high', class: 'hidden xl:table-cell' },
    { label: 'rank', title: '(now − low)/(high − low)' },
    { label: 'pct', title: 'share of the sessions before that were lower' },
    { label: 'z', title: 'deviations from the mean' },
  ];
</script>

<section class="panel flex-1 overflow-auto" aria-label="Standing">
  <header class="px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold">Standing</h2>
    <p class="m-0 text-[11px] text-soft">
      {asked === 0 ? 'over all sessions held' : `over ${asked} sessions`}{short
        ? `; of ${short.name} only ${figures.count(short.standing!.sessions)} are held`
        : ''}
    </p>
  </header>
  <DataGrid
    label="Standing by series"
    heads={HEADS}
    rows={desk.standings}
    keyOf={({ name }) => name}
    area="flex-none"
    isDense
    isEdged
    testid="standing"
    rowClass="h-[24px] align-baseline xl:h-[34px]"
  >
    {#snippet row({ name, kind, at, standing, error })}
      <td
        class="text-[12px] whitespace-nowrap {{
          implied: 'text-implied',
          historical: 'text-realized',
          lower: '',
        }[kind]}"
        >{#if kind !== 'lower'}<svg width="16" height="8" class="mr-1 inline-block align-middle" aria-hidden="true"
            ><line
              x1="0"
              x2="16"
              y1="4"
              y2="4"
              stroke="currentColor"
              stroke-width="1.8"
              stroke-dasharray={strokeOf(at, kind === 'historical')}
            /></svg
          >{/if}{name}</td
      >
      <td class="cell font-semibold"
        >{standing ? write(kind, standing.now) : '–'}<span class="xl:block"
          ><Doubt text={figures.volDoubt(error)} /></span
        ></td
      >
      {#each [['low', 'lowDate'], ['high', 'highDate']] as const as [end, date] (end)}
        <td class="cell hidden xl:table-cell"
          >{#if standing}{write(kind, standing[end])}<span class="block text-[10.5px]! text-soft"
              >{shortDay(standing[date], bench.moment.summary?.asof.slice(0, 4))}</span
            >{/if}</td
        >
      {/each}
      <td class="cell">{standing ? figures.fixed(100 * standing.rank, 0) : ''}</td>
      <td class="cell">{standing ? figures.fixed(100 * standing.percentile, 0) : ''}</td>
      <td class="cell">{standing ? figures.signed(standing.z, 1) : ''}</td>
    {/snippet}
  </DataGrid>
  <h3 class="mx-3 mt-3 mb-1 text-[12px] font-bold">A session</h3>
  <dl class="m-0 mx-3 grid grid-cols-[1fr_auto] gap-y-0.5 text-[12px]">
    <dt class="text-soft">implied, one deviation</dt>
    <dd class="figures m-0">{figures.percent(sessionMove(implied), 2)}</dd>
    <dt class="text-soft">moved on average of {MOVES}</dt>
    <dd class="figures m-0">{figures.percent(average, 2)}</dd>
  </dl>
  <h3 class="mx-3 mt-3 mb-1 text-[12px] font-bold">Forecasts of the next {HORIZON} sessions</h3>
  <dl class="m-0 mx-3 grid grid-cols-[1fr_auto] gap-y-0.5 text-[12px]" data-testid="forecasts">
    <dt class="text-soft" title="exponentially weighted, 0.94 a session">EWMA</dt>
    <dd class="figures m-0">{figures.vol(forecasts.value?.ewma)}</dd>
    <dt class="text-soft" title="by maximum likelihood, its variance coming back to the long run">
      GARCH(1,1){#if forecasts.value?.fit}&ensp;<span class="figures text-[10.5px]!"
          >α {figures.fixed(forecasts.value.fit.alpha, 2)} β {figures.fixed(forecasts.value.fit.beta, 2)}</span
        >{/if}
    </dt>
    <dd class="figures m-0">{figures.vol(forecasts.value?.garch)}</dd>
    <dt class="text-soft" title="regression on the last session, week and month">HAR</dt>
    <dd class="figures m-0">{figures.vol(forecasts.value?.har)}</dd>
  </dl>
  <p class="m-0 mx-3 mt-1 text-[11px] text-soft">
    {forecasts.value
      ? `By models fitted to ${figures.counted(forecasts.value.bars, 'bar')}; forecasts are no measurements.`
      : 'Being fitted …'}
  </p>
  {#if bench.snapshot.quoted.length > 0}
    <h3 class="mx-3 mt-3 mb-1 flex text-[12px] font-bold">
      <span class="flex-1">Quality</span><span class="figures"
        >{figures.count(Math.round(bench.moment.summary?.quality ?? NaN))} of 100</span
      >
    </h3>
    <dl
      class="m-0 mx-3 mb-2 grid grid-cols-[64px_1fr_auto] items-center gap-x-2 gap-y-0.5 text-[12px]"
      data-testid="quality"
    >
      {#each Object.keys(PARTS) as (keyof QualityParts)[] as name (name)}
        <dt class="text-soft" title="counts {figures.percent(QUALITY_WEIGHTS[name], 0)}">{PARTS[name]}</dt>
        <dd class="m-0 h-[5px] rounded bg-line" aria-hidden="true">
          <div
            class="h-full rounded {parts[name] < 0.5 ? 'bg-loss' : 'bg-implied'}"
            style="width: {100 * parts[name]}%"
          ></div>
        </dd>
        <dd class="figures m-0">{figures.count(Math.round(100 * parts[name]))}</dd>
      {/each}
    </dl>
  {/if}
</section>

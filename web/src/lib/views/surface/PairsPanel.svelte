<script lang="ts">
  import { PAIR_UNITS, SESSIONS_PER_YEAR, type PairUnit } from '@umwelt/core';
  import { Chart, depthColor, HeldRange } from '$lib/charts';
  import { PAIR_MARGIN, pairFigure } from './charts/pairs';
  import { offerTable } from '$lib/exports';
  import { pairsOf, type PairPast, type PairPlace } from '$lib/film';
  import { figures, shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, expiryIndex, useTheme, useWorkbench, useParams } from '$lib/state';
  import { DataGrid, type Head } from '$lib/ui';
  import MainTabs from './MainTabs.svelte';
  import { curvePairs, PAIR_SIZES, pairSentence, pairsTable, pastPlace, snapshotPairs, UNIT_NAMES } from './pairs';
  import { PARAMS } from './params';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const ranges = { x: new HeldRange(), y: new HeldRange() };

  const choice = $derived({ unit: params.pairUnit, size: params.pairSize });
  const rows = $derived.by(() => {
    const { frame } = bench.playback;
    const { shown } = bench.snapshot;
    if (frame) return curvePairs(frame.expiries, choice);
    return shown ? snapshotPairs(shown.snapshot, shown.values, choice) : [];
  });
  /** Strikes between those that are listed are written as prices. */
  const isListed = $derived(choice.unit === 'steps');
  const lit = $derived.by(() => {
    return rows[expiryIndex(rows, (bench.playback.frame ? null : bench.focus.lit) ?? bench.context)] ?? null;
  });

  /** The moments over which the pair is followed: the sessions of the year up to the one in view, or the span that plays. */
  const asofs = $derived.by(() => {
    if (bench.playback.played.length > 0) return bench.playback.played.map(({ asof }) => asof);
    const { current } = bench.market;
    const { stops, index } = bench.moment;
    const before = stops.slice(0, stops.findLastIndex((stop) => stop <= index) + 1);
    return current ? before.slice(-SESSIONS_PER_YEAR).map((stop) => current.snapshots[stop]!.asof) : [];
  });
  /** The pair that is followed: while it plays the one from which it started. */
  let followed = $state.raw<{ place: PairPlace; days: number } | null>(null);
  $effect(() => {
    if (!bench.playback.isPlaying && lit) followed = { place: pastPlace(lit, choice), days: lit.days };
  });
  const pairs = new Loaded<PairPast & { asofs: string[]; days: number }>(() => {
    void bench.playback.film.edition;
    if (!followed) return undefined;
    const held = bench.playback.film.of(bench.context.symbol ?? '', asofs).map(({ asof }) => asof);
    const { days, place } = followed;
    return pairsOf(held, place).then((found) => ({ ...found, asofs: held, days }));
  });
  const past = $derived(pairs.value);
  /** How far along the line the moment in view is; null outside it. */
  const along = $derived.by(() => {
    const [first, last] = [past?.asofs[0], past?.asofs.at(-1)].map((asof) => Date.parse(asof ?? ''));
    const share = (bench.moment.instant - first!) / (last! - first!);
    return share >= 0 && share <= 1 ? share : null;
  });
  const figure = $derived(
    past && past.asofs.length > 1
      ? pairFigure({
          ...past,
          key: `${bench.context.symbol} ${choice.unit} ${choice.size}`,
          tokens: theme.tokens,
          ranges,
        })
      : null,
  );
  const sentence = $derived.by(() => {
    const gaps = past ? Array.from(past.putVol, (vol, i) => vol - past!.callVol[i]!).filter(Number.isFinite) : [];
    const under = lit ? gaps.filter((gap) => gap < lit.gap).length / gaps.length : NaN;
    return pairSentence(lit, under, gaps.length);
  });

  function setUnit(unit: PairUnit): void {
    params.pairUnit = unit;
    params.pairSize = { steps: 2, percent: 5, deviations: 1 }[unit];
  }

  offerTable(
    'pairs',
    () => `Equidistant pairs of ${bench.context.symbol}`,
    () =>
      rows.length > 0
        ? pairsTable(rows, {
            symbol: bench.context.symbol ?? '',
            asof: bench.playback.frame?.asof ?? bench.snapshot.shown?.snapshot.asof ?? '',
          })
        : null,
  );

  const HEADS: readonly Head[] = [
    { label: 'expiry', align: 'left' },
    { label: 'days', class: 'hidden xl:table-cell' },
    { label: 'put ▽' },
    { label: 'vol' },
    { label: 'price', class: 'hidden xl:table-cell' },
    { label: 'call △' },
    { label: 'vol' },
    { label: 'price', class: 'hidden xl:table-cell' },
    { label: 'ratio', title: 'put price over call price' },
    { label: 'gap', title: 'put vol less call vol, points' },
  ];
</script>

<section class="panel min-h-0 min-w-0 flex-1" aria-label="Pairs">
  <header class="flex items-center gap-2 px-3 pt-2 pb-1">
    <MainTabs />
    <span class="min-w-0 flex-1 truncate text-soft">a put and a call as far from the forward</span>
    <select class="choice" aria-label="How far" bind:value={params.pairSize}>
      {#each PAIR_SIZES[choice.unit].includes(choice.size) ? PAIR_SIZES[choice.unit] : [...PAIR_SIZES[choice.unit], choice.size] as size (size)}
        <option value={size}>{size}</option>
      {/each}
    </select>
    <select
      class="choice"
      aria-label="Measured in"
      value={choice.unit}
      onchange={(event) => setUnit(event.currentTarget.value as PairUnit)}
    >
      {#each PAIR_UNITS as unit (unit)}<option value={unit}>{UNIT_NAMES[unit]}</option>{/each}
    </select>
  </header>
  <!-- By position: what plays changes the numbers of its rows, not the rows. -->
  <DataGrid
    label="Table of pairs"
    heads={HEADS}
    {rows}
    keyOf={(_, i) => i}
    isDense
    isEdged
    area="min-h-0 flex-[5] overflow-auto"
    testid="pairs"
    rowClass="h-[24px]"
    rowTitle={({ isQuoted }) => (isQuoted ? 'mids of the quotes' : 'by the curve')}
    isLit={(row) => row === lit}
    onchoose={({ expiry, settlement }) => bench.focus.set({ expiry, settlement })}
    none={bench.problem ??
      (bench.playback.film.problem && bench.playback.frame
        ? bench.playback.film.problem
        : bench.snapshot.shown
          ? 'No expiry has strikes this far on both sides.'
          : 'Loading …')}
  >
    {#snippet row(row)}
      <td class="whitespace-nowrap"
        ><span
          class="mr-1 inline-block size-[9px] rounded-[2px]"
          style="background: {depthColor(row.days, theme.tokens)}"
        ></span><span class="figures">{shortExpiry(row)}</span></td
      >
      <td class="cell hidden xl:table-cell">{figures.days(row.days)}</td>
      <td class="cell"
        >{isListed ? figures.strike(row.putStrike) : figures.fixed(row.putStrike, bench.market.decimals)}</td
      >
      <td class="cell">{figures.vol(row.putVol)}</td>
      <td class="cell hidden xl:table-cell">{figures.fixed(row.putPrice, bench.market.decimals)}</td>
      <td class="cell"
        >{isListed ? figures.strike(row.callStrike) : figures.fixed(row.callStrike, bench.market.decimals)}</td
      >
      <td class="cell">{figures.vol(row.callVol)}</td>
      <td class="cell hidden xl:table-cell">{figures.fixed(row.callPrice, bench.market.decimals)}</td>
      <td class="cell">{figures.fixed(row.ratio, 2)}</td>
      <td class="cell">{figures.volChange(row.gap)}</td>
    {/snippet}
  </DataGrid>
  <div class="flex min-h-0 flex-[4] flex-col border-t border-line px-2 pt-1">
    <p class="m-0 px-1 text-[11px] text-soft">
      {#if past && lit}gap in points above, ratio below, at {figures.days(past.days)} days to expiry{choice.unit ===
        'steps'
          ? ', by the strikes that were listed then'
          : ''}{/if}
    </p>
    <div class="relative flex min-h-0 flex-1">
      {#if figure}
        <Chart {figure} name="pair-over-time" label="The pair through time" />
        {#if along !== null}
          <!-- Over the chart, which need not be drawn again for it. -->
          <div
            class="pointer-events-none absolute w-px bg-focus"
            style="top: {PAIR_MARGIN.t}px; bottom: {PAIR_MARGIN.b}px; left: calc({PAIR_MARGIN.l}px + {along} * (100% - {PAIR_MARGIN.l +
              PAIR_MARGIN.r}px))"
            data-testid="along"
          ></div>
        {/if}
      {:else}<p class="m-auto text-soft">
          {bench.playback.film.problem ??
            (bench.playback.film.share < 1 ? 'The past is loading …' : 'No past is held.')}
        </p>{/if}
    </div>
  </div>
  <div class="h-[78px] flex-none overflow-hidden p-2 xl:h-[62px]"><Sentence {sentence} /></div>
</section>

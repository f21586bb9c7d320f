<script lang="ts">
  import { GRID_QUANTITIES, expiryName, isSameExpiry } from '@umwelt/core';
  import { Chart, HeldRange, Solid } from '$lib/charts';
  import {
    axisText,
    hasSides,
    heatFigure,
    heatMoving,
    QUANTITIES,
    quantityFigure,
    quantityMoving,
    solidOf,
    type MapInput,
  } from './charts/map';
  import { axisValue, strikeAt } from './charts/curve-line';
  import {
    extentOf,
    mapPositions,
    mapReach,
    mapsOf,
    mapTimes,
    usedExpiries,
    type MapExpiry,
    type MapRequest,
  } from '$lib/film';
  import { figures, mapSentence, momentDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { Loaded, nearestIndex, useTheme, useWorkbench, useParams } from '$lib/state';
  import { untrack } from 'svelte';
  import { announcements } from './announcements';
  import { AXIS_TITLES } from './axes';
  import AxisChoice from './AxisChoice.svelte';
  import MainTabs from './MainTabs.svelte';
  import { MAP_FORMS, PARAMS } from './params';
  import { Toggles } from '$lib/ui';

  let { onexpiry }: { onexpiry: (mark: unknown[]) => void } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  /** Of the colours, and of the values upright. */
  const ranges = { x: new HeldRange(), y: new HeldRange() };
  const DAYS_PER_YEAR = 365;
  const FORM_NAMES = { heat: 'colours', body: '3D', lines: 'by strike' } as const;

  /** The moment in view: the frame that plays, or the moment where playback has stopped. */
  const moment = $derived.by(() => {
    const { frame } = bench.playback;
    const { shown } = bench.snapshot;
    if (frame) return { instant: frame.instant, expiries: usedExpiries(frame) };
    if (!shown) return null;
    return { instant: shown.snapshot.instant, expiries: usedExpiries({ expiries: bench.snapshot.quoted }) };
  });
  const ghost = $derived(bench.snapshot.ghost);
  const isDifference = $derived(params.isDifference && ghost !== null && params.form !== 'lines');
  const ahead = $derived(announcements(bench.market.current?.events ?? [], bench.market.calendar));
  const quantity = $derived(params.quantity);
  const axis = $derived(params.axis);
  /** What only contracts have is of European exercise, where those that are listed may be exercised early. */
  const isEuropeanOnly = $derived(
    bench.market.underlying?.exercise === 'american' &&
      !['vol', 'variance', 'density', 'cumulative'].includes(quantity),
  );
  const isOnFutures = $derived(bench.market.underlying?.kind === 'future');

  /** What is drawn: asked for and answered together, so that no axis is of another moment. */
  interface Drawn {
    form: (typeof MAP_FORMS)[number];
    request: MapRequest;
    isDifference: boolean;
    rows: Float64Array[];
    puts: Float64Array[] | null;
    less: Float64Array[] | null;
    expiries: readonly MapExpiry[];
  }
  /** What was drawn when nothing played: what plays moves on its axes. */
  let still = $state.raw<Drawn | null>(null);

  const drawing = new Loaded<Drawn>(
    () => {
      if (!moment || moment.expiries.length === 0) return null;
      const { expiries, instant } = moment;
      const { form } = params;
      // During playback a coarser grid is enough.
      const positions = mapPositions(axis, expiries).filter(
        (_, i) => i % 2 === 0 || !bench.playback.frame || form !== 'body',
      );
      const years = form === 'lines' ? expiries.map((one) => one.years) : mapTimes(expiries);
      const of = (held: readonly MapExpiry[], at: number, price: number): MapRequest => ({
        expiries: held,
        events: ahead(at),
        spot: isOnFutures || !Number.isFinite(price) ? null : price,
        quantity,
        side: params.mapSide,
        axis,
        positions,
        years,
      });
      const request = of(expiries, instant, bench.moment.summary?.price ?? NaN);
      const requests = [request];
      if (form === 'lines' && hasSides(quantity)) requests[0] = { ...request, side: 'call' };
      if (form === 'lines' && hasSides(quantity)) requests.push({ ...request, side: 'put' });
      const ghostExpiries = ghost ? usedExpiries({ expiries: ghost.slices.map(({ fit }) => fit) }) : [];
      const isLess = isDifference && ghostExpiries.length > 0;
      if (isLess) requests.push(of(ghostExpiries, ghost!.instant, ghost!.price));
      return mapsOf(requests).then((found) => ({
        ...{ form, request, isDifference: isLess, rows: found[0]!, expiries },
        puts: form === 'lines' && hasSides(quantity) ? found[1]! : null,
        less: isLess ? found.at(-1)! : null,
      }));
    },
    (found) => {
      if (!bench.playback.frame) still = found;
    },
  );
  const drawn = $derived(drawing.value);

  const litExpiry = $derived(bench.playback.isPlaying ? null : bench.focus.lit && expiryName(bench.focus.lit));

  /** What the colours are for, and the heights of lines. */
  const keyOf = ({ quantity: of, side, axis: on }: Pick<MapRequest, 'quantity' | 'side' | 'axis'>, isLess: boolean) =>
    `${bench.context.symbol} ${of} ${side} ${on} ${isLess ? bench.context.ghost : ''}`;
  const linesKey = (of: string, on: string) => `${bench.context.symbol} ${of} ${on}`;

  function inputOf({ request, isDifference, rows, less, expiries }: Drawn): MapInput {
    const days = request.years.map((years) => DAYS_PER_YEAR * years);
    const lit = bench.playback.isPlaying ? null : bench.focus.lit;
    const litOne = lit && expiries.find((one) => isSameExpiry(one, lit));
    const isPut = request.side === 'put';
    return {
      quantity: request.quantity,
      axis: request.axis,
      axisTitle: AXIS_TITLES[request.axis],
      isDifference,
      positions: request.positions,
      days,
      rows: less ? rows.map((row, i) => row.map((value, j) => value - less[i]![j]!)) : rows,
      expiries,
      lit: lit && litOne ? { at: axisValue(request.axis, lit.strike, litOne), days: litOne.days } : null,
      contractAt: (position, day) => {
        const one =
          expiries[
            nearestIndex(
              expiries.map((each) => Math.log(each.days)),
              Math.log(day),
            )
          ]!;
        const strike = strikeAt(request.axis, position, one);
        const side = hasSides(request.quantity) ? (isPut ? 'put' : 'call') : strike < one.forward ? 'put' : 'call';
        return [expiryName(one), strike, side];
      },
      range: ranges.x,
      key: keyOf(request, isDifference),
      reach,
      tokens: theme.tokens,
    };
  }

  /** How far the axes go while it plays. */
  const reach = $derived(bench.playback.played.length > 0 ? mapReach(axis, bench.playback.played) : null);
  /** Raised when the values of what plays have come, for which the axes are held. */
  let extents = $state(0);
  new Loaded(
    () => {
      const { played } = bench.playback;
      const { current } = bench.market;
      const { form } = params;
      if (played.length === 0 || !current || isDifference) return undefined;
      const prices = new Map(current.snapshots.map(({ asof, price }) => [asof, price ?? NaN]));
      const sides = !hasSides(quantity)
        ? (['call'] as const)
        : form === 'lines'
          ? (['call', 'put'] as const)
          : [params.mapSide];
      const spots = isOnFutures ? null : played.map(({ asof }) => prices.get(asof) ?? NaN);
      const asofs = played.map(({ asof }) => asof);
      const key = untrack(() => keyOf({ quantity, side: params.mapSide, axis }, false));
      const asked = { key, lines: linesKey(quantity, axis), scale: QUANTITIES[quantity].scale };
      return extentOf(asofs, { quantity, axis, sides, spots }).then((extent) => ({ ...asked, extent }));
    },
    ({ key, lines, scale, extent }) => {
      if (!extent) return;
      ranges.x.of(key, extent, 0);
      ranges.y.of(
        lines,
        extent.map((value) => scale * value),
      );
      extents++;
    },
  );

  const heat = $derived.by(() => {
    void extents;
    return still?.form === 'heat' ? heatFigure(inputOf(still)) : null;
  });
  const solid = $derived.by(() => {
    void extents;
    const seen = bench.playback.frame ? drawn : still;
    return seen?.form === 'body' ? solidOf(inputOf(seen), litExpiry) : null;
  });
  const lines = $derived.by(() => {
    void extents;
    return still?.form === 'lines' ? quantityFigure(linesOf(still)) : null;
  });
  const moving = $derived.by(() => {
    if (!bench.playback.frame || !drawn || drawn.form !== still?.form || drawn.form === 'body') return null;
    return drawn.form === 'heat' ? heatMoving(inputOf(drawn)) : quantityMoving(linesOf(drawn));
  });

  function linesOf({ request, rows, puts, expiries }: Drawn) {
    const lit = bench.playback.isPlaying ? null : bench.focus.lit;
    const litOne = lit && expiries.find((one) => isSameExpiry(one, lit));
    return {
      quantity: request.quantity,
      axis: request.axis,
      positions: request.positions,
      expiries,
      calls: rows,
      puts,
      litExpiry,
      litAt: lit && litOne ? axisValue(request.axis, lit.strike, litOne) : null,
      tokens: theme.tokens,
      ranges,
      key: linesKey(request.quantity, request.axis),
      reach,
    };
  }
  const sentence = $derived.by(() => {
    if (!drawn) return null;
    const { quantity: of, axis: on, rows, days, positions } = inputOf(drawn);
    const ghostDay = drawn.isDifference && ghost ? momentDay(ghost.instant, bench.market.calendar.zone) : null;
    const place = (i: number, j: number) => `${axisText(on, positions[j]!)} and ${figures.days(days[i]!)} days`;
    return mapSentence(QUANTITIES[of], { rows, place }, ghostDay);
  });
</script>

<section class="panel min-h-0 min-w-0 flex-1" aria-label="Map">
  <header class="flex flex-wrap items-center gap-x-2.5 gap-y-1 px-3 pt-2 pb-1">
    <MainTabs />
    <span class="min-w-0 flex-1 truncate text-soft">{isEuropeanOnly ? 'of European exercise' : ''}</span>
    <AxisChoice />
  </header>
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pb-1 text-[12px]">
    <select class="choice" bind:value={params.quantity} aria-label="What the map shows">
      {#each GRID_QUANTITIES as one (one)}<option value={one}>{QUANTITIES[one].name}</option>{/each}
    </select>
    <Toggles label="Form" options={MAP_FORMS} words={(form) => FORM_NAMES[form]} bind:value={params.form} />
    {#if params.form !== 'lines'}
      {#if hasSides(quantity)}
        <Toggles
          label="Side of the map"
          options={['call', 'put'] as const}
          words={(side) => `${side}s`}
          bind:value={params.mapSide}
        />
      {/if}
      <Toggles
        label="Against the ghost"
        options={['less the ghost']}
        isOn={() => params.isDifference}
        titles={() =>
          ghost ? 'how far it is from the ghost' : 'keep a moment in view (m) to see how far it is from it'}
        onchoose={() => {
          params.isDifference = !params.isDifference;
          if (params.isDifference && !bench.context.ghost) bench.moment.toggleGhost();
        }}
      />
    {:else if hasSides(quantity)}
      <span class="text-[11px] text-soft">— calls&ensp;– – puts</span>
    {/if}
  </div>
  <div class="flex min-h-0 flex-1 px-2">
    {#if drawing.problem}
      <p class="m-auto text-loss" role="alert">{drawing.problem}</p>
    {:else if heat}
      <Chart
        figure={heat}
        {moving}
        bundle="cartesian"
        name="map"
        label="{QUANTITIES[quantity].name} over strikes and times"
        onchoose={onexpiry}
      />
    {:else if solid}
      <Solid
        {solid}
        isMoving={bench.playback.frame !== null}
        name="map"
        label="{QUANTITIES[quantity].name} over strikes and times"
        onchoose={onexpiry}
      />
    {:else if lines}
      <Chart figure={lines} {moving} name="map" label="{QUANTITIES[quantity].name} by strike" onchoose={onexpiry} />
    {:else}
      <p class="m-auto text-soft">
        {bench.problem ?? (moment ? 'No expiry has a curve at this moment.' : 'Loading …')}
      </p>
    {/if}
  </div>
  <div class="figures flex justify-center px-11 text-[11px]! text-soft">
    {#if params.form !== 'body'}<span>{AXIS_TITLES[axis]}</span>{/if}
  </div>
  <div class="h-[78px] flex-none overflow-hidden p-2 xl:h-[62px]">
    {#if sentence}<Sentence {sentence} />{/if}
  </div>
</section>

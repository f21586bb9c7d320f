<script lang="ts">
  import { dayOf, DAYS_PER_YEAR, instantAfter } from '@umwelt/core';
  import { Chart, type Figure } from '$lib/charts';
  import { figures, shortDay } from '$lib/formats';
  import { useParams, useTheme, useWorkbench } from '$lib/state';
  import { legWords } from '$lib/structure';
  import { Toggles } from '$lib/ui';
  import { legsFigure, mapFigure, volFigure } from './charts/others';
  import {
    curveColor,
    profileFigure,
    profileMoving,
    ROLES,
    type NamedCurve,
    type ProfileInput,
  } from './charts/profile';
  import { isTold } from './asked';
  import type { Evaluated, StructureDesk } from './desk.svelte';
  import Axes from './Axes.svelte';
  import AxisEnds from './AxisEnds.svelte';
  import LegHandles from './LegHandles.svelte';
  import OddsStrips from './OddsStrips.svelte';
  import { PARAMS, PICTURES, QUANTITIES, UNITS, type Picture, type Unit } from './params';
  import Scenario from './Scenario.svelte';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const answer = $derived(desk.answer);
  let width = $state(0);

  const NAMES: Record<Picture, string> = { price: 'by price', vol: 'by vol', map: 'map', legs: 'legs' };
  const TITLES: Record<Picture, string> = {
    price: 'along the price, a curve for each date',
    vol: 'along the vol at the price as it is, a curve for each date',
    map: 'over price and date, as colours',
    legs: 'each leg alone at the first expiry, and all of them',
  };

  function curvesOf({ request, shown, curves }: Evaluated): NamedCurve[] {
    return curves.map((columns, i): NamedCurve => {
      const role = ROLES[i] ?? 'horizon';
      const at = instantAfter(shown.snapshot.instant, request.moments[i]!);
      const day = shortDay(dayOf(bench.market.calendar, at));
      return { columns, role, name: role === 'now' ? 'today' : role === 'horizon' ? `${day}, expiry` : day };
    });
  }

  const TITLES_OF_UNITS: Record<Unit, string> = {
    unit: 'for a unit of the underlying',
    money: 'times the multiplier',
    risk: 'drawn in per cent of the capital at risk',
  };
  const WORDS: Record<Unit, () => string> = {
    unit: () => 'per unit',
    money: () => `in money, × ${figures.count(desk.multiplier)}`,
    risk: () => 'in per cent of the capital at risk',
  };

  const isMap = $derived(answer !== null && answer.request.moments.length > ROLES.length);
  const curves = $derived(answer ? curvesOf(answer) : []);
  /** What the answer at hand can draw: another picture and a Greek come with the next one. */
  const picture = $derived.by((): Picture => {
    if (isMap) return 'map';
    if (answer?.request.along === 'vol') return 'vol';
    return answer?.request.hasLegs ? 'legs' : 'price';
  });
  const quantity = $derived(
    answer && picture !== 'legs' && isTold(params.drawn, answer.request.depth) ? params.drawn : 'profit',
  );
  const beside = $derived.by(() => {
    const { before } = desk;
    if (!before || !isTold(params.drawn, answer?.request.depth ?? 'values')) return null;
    const [now, then] = before.curves;
    if (!now || !then) return null;
    return {
      x: before.x,
      curves: [
        { columns: now, role: 'now', name: 'today' },
        { columns: then, role: 'horizon', name: 'expiry' },
      ] satisfies NamedCurve[],
    };
  });

  const drawnOf = ({ x }: Evaluated) => ({
    ...{ x, curves, quantity, times: desk.drawnTimes, digits: desk.drawnDigits, decimals, tokens: theme.tokens },
  });
  function profileInput(found: Evaluated): ProfileInput {
    const { spot, price, strikes, evaluation, evens } = found;
    const { breakEvens } = evaluation.profile;
    return { ...drawnOf(found), spot, price, strikes, breakEvens, evens, trace: desk.trace, before: beside };
  }

  const figure = $derived.by((): Figure | null => {
    if (!answer || (desk.isMoving && params.pictured === 'price')) return null;
    const { price, request, evaluation } = answer;
    const drawn = drawnOf(answer);
    if (picture === 'vol') {
      const now = evaluation.legs[0]!.vol;
      const iv30 = bench.moment.summary?.iv30 ?? now;
      const { low, high } = bench.moment.rank ?? { low: iv30, high: iv30 };
      return volFigure({ ...drawn, level: { now: iv30, low, high } });
    }
    if (picture === 'map')
      return mapFigure({ ...drawn, price, days: request.moments.map((years) => years * DAYS_PER_YEAR) });
    if (picture === 'legs') {
      const legs = answer.legCurves.map((pnl, i) => {
        const leg = request.legs[i];
        return {
          pnl,
          name: leg ? legWords(leg) : `${figures.signed(request.held * desk.multiplier, 0)} underlying`,
          isBought: (leg?.quantity ?? request.held) > 0,
        };
      });
      return legsFigure({ ...drawn, price, legs });
    }
    return profileFigure(profileInput(answer));
  });
  /** While the profile is moved it is drawn over the axes that it had. */
  const moving = $derived(desk.isMoving && picture === 'price' && answer ? profileMoving(profileInput(answer)) : null);
  let still = $state.raw<Figure | null>(null);
  $effect.pre(() => {
    if (figure) still = figure;
  });
  const unitWords = $derived(WORDS[params.unit]());
</script>

<section class="panel min-h-0 flex-1" aria-label="Profile">
  <header class="flex flex-none flex-wrap items-baseline gap-x-3 gap-y-1 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Profile</h2>
    <Toggles
      label="Picture"
      options={PICTURES}
      words={(one) => NAMES[one]}
      titles={(one) => TITLES[one]}
      bind:value={params.pictured}
    />
    <span class="flex-1"></span>
    {#if answer && params.pictured !== 'vol'}<Axes {desk} {answer} />{/if}
    <label class="flex items-baseline gap-1 text-[12px] text-soft"
      >what
      <select
        class="choice"
        aria-label="What is drawn"
        disabled={params.pictured === 'legs'}
        bind:value={params.drawn}
        onkeydown={(event) => event.stopPropagation()}
      >
        {#each QUANTITIES as name (name)}<option value={name}>{name}</option>{/each}
      </select></label
    >
    <Toggles
      label="Amounts"
      options={UNITS}
      bind:value={params.unit}
      words={(unit) => (unit === 'risk' ? '% risk' : unit)}
      titles={(unit) => TITLES_OF_UNITS[unit]}
    />
  </header>
  {#if (figure ?? still) && answer}
    <div class="flex flex-none items-baseline gap-3 px-3 pt-1 text-[11px]">
      <ul class="m-0 flex min-w-0 flex-1 flex-wrap gap-x-3 p-0" aria-label="Curves">
        {#if picture === 'price' || picture === 'vol'}
          {#each curves as { name, role } (role)}
            <li class="flex items-center gap-1">
              <span class="h-[2px] w-[14px]" style="background: {curveColor(role, theme.tokens)}"></span>{name}
            </li>
          {/each}
          {#if beside && picture === 'price'}
            <li class="flex items-center gap-1 text-soft">
              <span class="h-0 w-[14px] border-t border-dashed border-current"></span>what stands beside
            </li>
          {/if}
        {:else if picture === 'map'}
          <li>{quantity} over price and days; the broken line is where it is nothing</li>
        {:else}
          <li>each leg alone on {curves.at(-1)?.name}; the thick line is all of them</li>
        {/if}
      </ul>
      <span class="flex-none text-soft" data-testid="structure-drawn">{quantity}, {unitWords}</span>
    </div>
    <div class="relative flex min-h-0 flex-1" bind:clientWidth={width}>
      {#key picture === 'map'}
        <Chart
          figure={(figure ?? still)!}
          {moving}
          bundle={picture === 'map' ? 'cartesian' : 'basic'}
          name="structure-{picture}"
          label="{quantity} of the structure {NAMES[picture]}"
        />
      {/key}
      {#if picture === 'price'}<LegHandles {desk} {answer} {width} /><AxisEnds {answer} {width} />{/if}
    </div>
    {#if desk.told && (picture === 'price' || picture === 'legs')}<OddsStrips {desk} answer={desk.told} />{/if}
    <Scenario {desk} />
  {:else}
    <div class="m-auto flex flex-col items-center gap-2 px-6 text-center text-soft">
      <p class="m-0" role={desk.problem ? 'alert' : undefined} data-testid="structure-waiting">{desk.waiting}</p>
      {#if desk.hand.nearest}
        {@const { nearest } = desk.hand}
        <button class="btn btn-sm" onclick={() => desk.hand.take(nearest)}
          >take the nearest listed: {nearest.map((leg) => legWords(leg)).join(', ')}</button
        >
      {/if}
    </div>
  {/if}
</section>

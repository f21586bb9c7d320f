<script lang="ts">
  import { dayOf, instantAfter } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { figures, shortDay } from '$lib/formats';
  import { useParams, useTheme, useWorkbench } from '$lib/state';
  import { Slider, Toggles } from '$lib/ui';
  import { curveColor, profileFigure, type NamedCurve } from './charts/profile';
  import { isTold, type StructureDesk } from './desk.svelte';
  import OddsStrips from './OddsStrips.svelte';
  import { MOST_SKEW, MOST_VOL, PARAMS, QUANTITIES, UNITS } from './params';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const params = useParams(PARAMS);
  const decimals = $derived(bench.market.decimals);
  const answer = $derived(desk.answer);

  const ROLES = ['now', 'third', 'two-thirds', 'horizon', 'scenario'] as const;

  const curves = $derived.by((): NamedCurve[] => {
    if (!answer) return [];
    const { request, shown } = answer;
    return answer.curves.map((columns, i): NamedCurve => {
      const role = ROLES[i]!;
      const day = shortDay(dayOf(bench.market.calendar, instantAfter(shown.snapshot.instant, request.moments[i]!)));
      return { columns, role, name: role === 'now' ? 'today' : role === 'horizon' ? `${day}, expiry` : day };
    });
  });
  /** A Greek is drawn once there is an answer with it. */
  const quantity = $derived(answer && isTold(params.drawn, answer.request.depth) ? params.drawn : 'profit');
  const figure = $derived(
    answer
      ? profileFigure({
          ...{
            prices: answer.prices,
            curves,
            quantity,
            times: desk.times,
            digits: desk.digits,
            decimals,
            tokens: theme.tokens,
          },
          price: answer.price,
          breakEvens: answer.evaluation.profile.breakEvens,
          strikes: answer.request.legs.map(({ strike }) => strike),
        })
      : null,
  );
  const unitWords = $derived(
    params.unit === 'money' ? `in money, × ${figures.count(bench.market.underlying?.multiplier ?? 1)}` : 'per unit',
  );
</script>

<section class="panel min-h-0 flex-1" aria-label="Profile">
  <header class="flex flex-none flex-wrap items-baseline gap-x-3 gap-y-1 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Profile</h2>
    <span class="text-[12px] text-soft">{params.drawn} by price, {unitWords}</span>
    <span class="flex-1"></span>
    <Toggles label="What is drawn" options={QUANTITIES} bind:value={params.drawn} />
    <Toggles
      label="Amounts"
      options={UNITS}
      bind:value={params.unit}
      titles={(unit) => (unit === 'money' ? 'times the multiplier' : 'for a unit of the underlying')}
    />
  </header>
  {#if figure && answer}
    <ul class="m-0 flex flex-none flex-wrap gap-x-3 px-3 pt-1 text-[11px]" aria-label="Curves">
      {#each curves as { name, role } (role)}
        <li class="flex items-center gap-1">
          <span class="h-[2px] w-[14px]" style="background: {curveColor(role, theme.tokens)}"></span>{name}
        </li>
      {/each}
    </ul>
    <Chart {figure} name="structure-profile" label="{quantity} of the structure by price" />
    <OddsStrips {desk} {answer} />
    <div class="flex flex-none items-center gap-2 px-3 py-1.5 text-[12px]" role="group" aria-label="Scenario">
      <span class="w-[104px] flex-none whitespace-nowrap"
        ><span class="text-soft">date</span>
        <b class="figures" data-testid="scenario-date"
          >{params.days > 0 ? `+ ${figures.fixed(desk.days, 0)} d` : 'today'}</b
        ></span
      >
      <Slider
        label="Days from now"
        bind:value={params.days}
        min={0}
        max={Math.max(1, Math.floor(desk.horizonDays))}
        step={1}
        color="target"
        class="min-w-0 flex-2"
      />
      <span class="w-[72px] flex-none whitespace-nowrap"
        ><span class="text-soft">vol</span> <b class="figures">{figures.signed(params.volPoints, 1)}</b></span
      >
      <Slider
        label="Points of vol"
        bind:value={params.volPoints}
        min={-MOST_VOL}
        max={MOST_VOL}
        step={0.1}
        class="min-w-0 flex-1"
      />
      <span class="w-[82px] flex-none whitespace-nowrap"
        ><span class="text-soft">skew</span> <b class="figures">{figures.signed(params.skewPoints, 1)}</b></span
      >
      <Slider
        label="Points of skew"
        bind:value={params.skewPoints}
        min={-MOST_SKEW}
        max={MOST_SKEW}
        step={0.1}
        class="min-w-0 flex-1"
      />
      <button
        class="btn btn-xs"
        disabled={!desk.isMoved}
        title="back to the market as it is"
        onclick={() => desk.leaveScenario()}>as it is</button
      >
    </div>
  {:else}
    <p class="m-auto px-6 text-center text-soft" role={desk.problem ? 'alert' : undefined}>
      {desk.problem ??
        bench.problem ??
        (desk.placed === null && bench.snapshot.snapshot ? 'A leg is not listed at this moment.' : 'Working out …')}
    </p>
  {/if}
</section>

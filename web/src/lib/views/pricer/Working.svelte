<script lang="ts">
  import { escrowOf, exerciseOf, pricingModel, smallTree, type BoundaryPoint, type Contract } from '@umwelt/core';
  import { Chart } from '$lib/charts';
  import { figures, longMoment } from '$lib/formats';
  import { useTheme, useWorkbench } from '$lib/state';
  import type { PricerDesk } from './desk.svelte';
  import { boundaryFigure } from './inside';
  import { Latest } from '$lib/data/latest';
  import { pricerWorker } from './worker';
  import { contractOf, type FieldName } from './terms';
  import { Derivation, workingLines, type Sources } from '$lib/working';

  let { desk }: { desk: PricerDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();

  const STEPS = 5;

  const priced = $derived(desk.priced);
  /** The derivation follows what is shown, not what is being typed. */
  const contract = $derived(priced ? contractOf(priced.terms, desk.side) : null);
  const typed = (name: FieldName) => desk.changes[name] !== undefined;
  const sources = $derived.by((): Sources => {
    const { shown } = bench.snapshot;
    const { current: focus } = bench.focus;
    const { calendar } = bench.market;
    const fit = shown && focus ? shown.snapshot.slices[focus.slice]!.fit : null;
    const at = shown ? longMoment(shown.snapshot.instant, calendar.zone) : '';
    return {
      price: typed('spot') || typed('forward') ? 'typed' : `as held of ${at}`,
      time: typed('days') ? 'days as typed' : undefined,
      vol: typed('vol') ? 'as typed' : `of the ${shown?.basis ?? 'curve'} basis`,
      rate: typed('rate') ? 'typed' : 'rate curve of the day',
      yield: typed('yield')
        ? 'typed'
        : fit?.forwardSource === 'parity'
          ? 'from the forward by parity'
          : 'from the forward by carry',
    };
  });
  const lines = $derived(contract && priced ? workingLines(contract, priced, sources) : []);
  let solved = $state.raw<{ contract: Contract; points: BoundaryPoint[] } | null>(null);
  const asking = new Latest<NonNullable<typeof solved>>(
    (found) => (solved = found),
    () => (solved = null),
  );
  $effect(() => {
    const asked = contract;
    if (!asked || pricingModel(asked) !== 'american') solved = null;
    else asking.ask(async () => ({ contract: asked, points: await pricerWorker().boundary(asked) }));
  });
  const boundary = $derived(
    solved && solved.points.length > 0 ? boundaryFigure(solved.contract, solved.points, theme.tokens) : null,
  );
  const tree = $derived.by(() => {
    if (!contract || pricingModel(contract) !== 'binomial' || !(contract.vol * contract.years > 0)) return null;
    const { spot = NaN, strike, years, rate, yield: carryYield = 0, vol, dividends } = contract;
    if (!(spot - escrowOf(contract)(0) > 0)) return null;
    const input = {
      sign: contract.side === 'call' ? 1 : -1,
      spot,
      strike,
      years,
      rate,
      yield: carryYield,
      vol,
      dividends,
    };
    return smallTree({ ...input, isAmerican: exerciseOf(contract) === 'american' }, STEPS);
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="flex min-h-0 flex-1 flex-col gap-2 overflow-y-auto px-3 pb-2"
  tabindex="0"
  role="region"
  aria-label="Derivation"
>
  {#if lines.length === 0}
    <p class="text-soft">Loading …</p>
  {:else}
    <Derivation {lines} />
    {#if boundary}
      <h3 class="m-0 text-[13px] font-semibold">Exercise boundary of the {desk.side}</h3>
      <div class="flex h-44 flex-none"><Chart figure={boundary} name="boundary" label="Exercise boundary" /></div>
    {:else if solved}
      <p class="m-0 text-soft">The {desk.side} is never exercised early at this rate and yield.</p>
    {/if}
    {#if tree}
      <h3 class="m-0 text-[13px] font-semibold">
        The tree in {STEPS} steps, of the {desk.side}
        <span class="text-[11px] font-normal text-soft"
          >odds of a step up {figures.percent(tree.up, 2)}, discount of a step {figures.fixed(tree.discount, 5)}</span
        >
      </h3>
      <div class="flex flex-none gap-1 overflow-x-auto" data-testid="tree">
        {#each tree.levels as level, i (i)}
          <div class="flex flex-1 flex-col justify-center gap-1">
            {#each level.toReversed() as node, j (j)}
              <div class="rounded-[5px] border px-1 py-0.5 {node.isExercised ? 'border-loss bg-band' : 'border-line'}">
                <span class="figures block text-[11px]! text-soft">{figures.fixed(node.price, 2)}</span>
                <span class="figures block text-[11px]! font-bold">{figures.fixed(node.value, 3)}</span>
              </div>
            {/each}
          </div>
        {/each}
      </div>
      <p class="m-0 text-[11px] text-soft">Price above, value below; ruled in colour where it is exercised.</p>
    {/if}
  {/if}
</div>

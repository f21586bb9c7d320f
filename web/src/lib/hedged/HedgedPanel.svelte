<script lang="ts">
  import { HEDGED_PARTS, type HedgedHistory, type HedgedParts, type HedgedPast } from '@umwelt/core';
  import { call } from '$lib/api/call';
  import { Chart } from '$lib/charts';
  import { offerTable } from '$lib/exports';
  import { hedgedOf } from '$lib/film';
  import { figures, momentDay } from '$lib/formats';
  import { Loaded, useParams, useTheme, useWorkbench } from '$lib/state';
  import { numberColumns, tabbed, type DataTable } from '$lib/tables';
  import { KeyArea, NumberField, Toggles } from '$lib/ui';
  import { hedgedFigure, LINES } from './figure';
  import {
    ENTRIES,
    HEDGE_VOLS,
    HEDGED_PARAMS,
    MOST_BAND,
    MOST_COST,
    REHEDGES,
    STRETCHES,
    VOL_RANGE,
    WORTHS,
  } from './params';
  import { contractsText, hedgedPastOf, ruleOf } from './past';

  /** What hedging the legs in hand would have brought, over the moments that are held: profit by what brought it. */
  const bench = useWorkbench();
  const theme = useTheme();
  const params = useParams(HEDGED_PARAMS);
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);
  const zone = $derived(bench.market.calendar.zone);

  const REHEDGE_NAMES = { session: 'every session', moment: 'every moment', band: 'out of a band' } as const;
  const VOL_NAMES = { own: 'own vol', curve: 'curve', forecast: 'forecast', fixed: 'a vol' } as const;

  /** Why nothing can be told; null where something can. */
  const missing = $derived.by(() => {
    const { legs, symbol } = bench.context;
    if (legs.length === 0) return 'No legs are in hand: pick some in the Chain or in Structure.';
    return legs.some((leg) => leg.symbol !== symbol) ? 'Legs of several deliveries are not followed here.' : null;
  });

  /** Between which moments it is followed; null where none are held. */
  const ends = $derived.by(() => {
    const { current } = bench.market;
    const { asof } = bench.moment.summary ?? {};
    const [first, last] = [current?.snapshots[0]?.asof, current?.snapshots.at(-1)?.asof];
    if (!asof || !first || !last) return null;
    // What ends after the last moment that is held settles a little later, at its close.
    const settled = new Date(Date.parse(last) + SETTLING_MS).toISOString();
    return params.stretch === 'until' ? { from: first, to: asof } : { from: asof, to: settled };
  });
  const SETTLING_MS = 86_400_000;

  const past = new Loaded<HedgedPast>((signal) => {
    const { symbol, legs, held } = bench.context;
    const { current, underlying, bars } = bench.market;
    // A band is looked at whenever something is known.
    const step = params.rehedge === 'session' ? 'session' : 'moment';
    void bench.market.edition;
    if (missing) return null;
    if (!symbol || !ends || !underlying || !bars || current?.symbol !== symbol) return undefined;
    const times = multiplier;
    const days = current.history.map(({ date }) => date);
    const query = { contracts: contractsText(legs), ...ends, step } as const;
    return call('GET /underlyings/{symbol}/contract-past', { path: { symbol }, query, signal }).then((answer) =>
      hedgedPastOf(answer, legs, held / times, underlying, { days, close: bars.close }),
    );
  });

  const told = new Loaded<{ history: HedgedHistory | null }>(() => {
    const rule = ruleOf(params, multiplier);
    return past.value && hedgedOf(past.value, rule).then((history) => ({ history }));
  });
  const history = $derived(told.value?.history ?? null);
  const problem = $derived(missing ?? past.problem ?? told.problem);

  const last = $derived(history?.steps.at(-1));
  const money = (value: number) => figures.signed(value * multiplier, 0);
  const PART_NAMES: Record<keyof HedgedParts, [string, string]> = {
    gamma: ['gamma', '½ Γ (ΔS)²: what moves of the price earned'],
    theta: ['theta', '½ Γ S² σ² Δt: what time took for it, by the vol of each leg'],
    vega: ['vega', 'vega times what the vols of the legs changed by'],
    delta: ['delta left', 'what was not hedged, times the move'],
    carry: ['carry', 'interest of the contracts less that on what was paid, and what the underlying earned and owed'],
    cost: ['costs', 'of trading the underlying, and of the entry'],
    rest: ['rest', 'terms of higher order, and quotes that are not of one curve'],
  };
  const facts = $derived.by((): [string, string, string][] => {
    if (!history || !last) return [];
    const { implied, realized, expected, trades, byCurve, skipped, hasEnded } = history;
    return [
      ['not hedged', money(last.unhedged), 'the same without any trade of the underlying'],
      ['implied', figures.percent(implied, 1), 'vol of the legs at the entry, weighted by vega'],
      ['realized', figures.percent(realized, 1), 'by the moves between the moments, a year'],
      ['by vega', money(expected), 'vega at the entry times realized less implied: what they alone would have said'],
      ['trades', figures.count(trades), 'times the underlying was traded after the first'],
      ['by curve', figures.count(byCurve), 'moments at which a leg had no market, and was worth its curve'],
      ['left out', figures.count(skipped), 'moments at which a leg was not held, or had no curve'],
      ['ended', hasEnded ? 'yes' : 'no', 'whether it was followed to its first expiry'],
    ];
  });
  const DASHES = { solid: 'solid', dash: 'dashed', dot: 'dotted' } as const;
  const figure = $derived(history && hedgedFigure(history, multiplier, theme.tokens, zone));

  const table = (): DataTable => ({
    columns: [
      { name: 'moment', type: 'instant' },
      ...numberColumns(['price', 'value', 'vol', 'delta', 'hedge', ...HEDGED_PARTS, 'hedged', 'not hedged']),
    ],
    rows: (history?.steps ?? []).map((step) => [
      new Date(step.instant).toISOString(),
      step.price,
      step.value,
      step.vol,
      step.structureDelta,
      step.hedge,
      ...HEDGED_PARTS.map((part) => step[part]),
      step.profit,
      step.unhedged,
    ]),
  });
  offerTable(
    'hedged-past',
    () => `Hedged past of legs on ${bench.context.symbol}`,
    () => (history ? table() : null),
  );
</script>

<div class="flex flex-none flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1 text-[12px] text-soft">
  <Toggles
    label="Stretch"
    options={STRETCHES}
    words={(one) => (one === 'until' ? 'until now' : 'from now on')}
    titles={(one) =>
      one === 'until'
        ? 'since all legs were listed, up to the moment in view'
        : 'from the moment in view on, until the first of them ends or the last moment that is held'}
    bind:value={params.stretch}
  />
  <label class="flex items-center gap-1"
    >traded
    <select class="choice" aria-label="When it is hedged" bind:value={params.rehedge}>
      {#each REHEDGES as one (one)}<option value={one}>{REHEDGE_NAMES[one]}</option>{/each}
    </select>
    {#if params.rehedge === 'band'}<NumberField
        label="Band of delta"
        bind:value={params.hedgeBand}
        min={0}
        max={MOST_BAND}
      />{/if}</label
  >
  <label class="flex items-center gap-1"
    >delta by
    <select class="choice" aria-label="Vol of the hedge" bind:value={params.hedgeVol}>
      {#each HEDGE_VOLS as one (one)}<option value={one}>{VOL_NAMES[one]}</option>{/each}
    </select>
    {#if params.hedgeVol === 'fixed'}<NumberField
        label="Vol that it is hedged by"
        bind:value={params.fixedVol}
        min={VOL_RANGE[0]}
        max={VOL_RANGE[1]}
      />%{/if}</label
  >
  <label class="flex items-center gap-1"
    >worth by
    <select class="choice" aria-label="What it is worth by" bind:value={params.worth}>
      {#each WORTHS as one (one)}<option value={one}>{one}</option>{/each}
    </select></label
  >
  <label class="flex items-center gap-1"
    >entered at
    <select class="choice" aria-label="Entered at" bind:value={params.entered}>
      {#each ENTRIES as one (one)}<option value={one}>{one}</option>{/each}
    </select></label
  >
  <label class="flex items-center gap-1" title="hundredths of a per cent of its price, each time it is traded"
    >cost <NumberField
      label="Cost of the underlying"
      bind:value={params.hedgeCost}
      min={0}
      max={MOST_COST}
      class="w-10"
    /> bp</label
  >
</div>
{#if history && last}
  <div class="flex min-h-0 flex-1 gap-2">
    <div class="flex min-h-0 min-w-0 flex-1 flex-col">
      <p class="m-0 flex flex-none gap-x-3 px-3 text-[12px]">
        <span class="min-w-0 flex-1 truncate" data-testid="hedged-words"
          >since {momentDay(history.steps[0]!.instant, zone)}</span
        >
        {#each LINES as { name, color, dash } (name)}
          <span class="flex flex-none items-center gap-1 text-[11px]"
            ><span class="w-4 border-t-2" style="border-color: {theme.tokens[color]}; border-top-style: {DASHES[dash]}"
            ></span>{name}</span
          >
        {/each}
      </p>
      {#if figure}<Chart {figure} name="hedged-past" label="Profit hedged and not" />{/if}
    </div>
    <KeyArea
      label="What brought it"
      class="w-72 flex-none overflow-auto border-l border-line"
      copied={() => tabbed(table())}
    >
      <div class="grid grid-cols-2 gap-x-4 px-2 text-[11.5px] leading-[15px]">
        <dl class="m-0 grid grid-cols-[1fr_auto] content-start" data-testid="hedged-parts">
          <dt class="font-semibold">hedged</dt>
          <dd class="figures m-0 text-right font-semibold">{money(last.profit)}</dd>
          {#each HEDGED_PARTS as part (part)}
            <dt class="text-soft" title={PART_NAMES[part][1]}>{PART_NAMES[part][0]}</dt>
            <dd class="figures m-0 text-right {last[part] < 0 ? 'text-loss' : ''}">{money(last[part])}</dd>
          {/each}
        </dl>
        <dl class="m-0 grid grid-cols-[1fr_auto] content-start" data-testid="hedged-facts">
          {#each facts as [name, value, title] (name)}
            <dt class="text-soft" {title}>{name}</dt>
            <dd class="figures m-0 text-right">{value}</dd>
          {/each}
        </dl>
      </div>
    </KeyArea>
  </div>
{:else}
  <p class="m-auto px-4 text-center text-soft" role={problem && !missing ? 'alert' : undefined}>
    {problem ?? (told.value ? 'All legs together are held at fewer than two moments of this stretch.' : 'Loading …')}
  </p>
{/if}

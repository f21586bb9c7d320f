<script lang="ts">
  import PanelRightClose from '@lucide/svelte/icons/panel-right-close';
  import { reasonName, type Basis } from '@umwelt/core';
  import { offerTable } from '$lib/exports/shown';
  import { borrowedWords, figures, isSetAside, oddsSentence, reasonWords, shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import { basesTable, closeUpOf, differencesOf } from '$lib/working/close-up';
  import { DataGrid, type Head, Worked } from '$lib/ui';

  let { onfold, onbases }: { onfold: () => void; onbases: () => void } = $props();

  const bench = useWorkbench();
  const lit = $derived(bench.focus.lit);
  const shown = $derived(bench.snapshot.shown);
  const fit = $derived(lit && shown ? shown.snapshot.slices[lit.slice]!.fit : null);
  const contract = $derived(lit && shown ? closeUpOf(shown, lit, bench.samples.of(lit.slice)) : null);
  const sentence = $derived(
    contract && shown && lit ? oddsSentence(contract.views, differencesOf(shown, lit, contract)) : null,
  );

  offerTable(
    'close-up',
    () => 'Close-up: one contract, six volatilities',
    () => (contract && shown && lit ? basesTable(contract, shown.snapshot, lit) : null),
  );

  function exclude(decision: 'use' | 'aside' | null): void {
    if (!lit || !fit) return;
    const { expiry, strike, side } = lit;
    void bench.exclusions.decide({ expiry, settlement: fit.settlement, strike, side }, decision);
  }

  const { decimals } = $derived(bench.market);
  const where = $derived.by(() => {
    if (!contract || !Number.isFinite(contract.distance)) return '';
    const size = figures.percent(Math.abs(contract.distance));
    return `${size} ${contract.distance < 0 ? 'under' : 'over'} the forward`;
  });
  const edgeWords = $derived(contract && contract.edge >= 0 ? 'rich by' : 'cheap by');

  /** Six columns have no room for prices of many decimals: these are in units of the last one. */
  const unit = $derived(decimals > 2 ? 10 ** -decimals : 1);
  const places = (value: number, [one, none]: readonly [number, number]) => {
    const size = Math.abs(value);
    return Math.min(decimals, size >= none ? 0 : size >= one || unit < 1 ? 1 : 2);
  };
  /** Prices that are long enough without their last decimals. */
  const short = (value: number) => figures.fixed(value / unit, places(value / unit, [100, 1000]));
  const shortSigned = (value: number) => figures.signed(value / unit, places(value / unit, [10, 100]));
  const percent = (value: number) => figures.fixed(100 * value, 1);
  const rows = $derived.by(() => {
    if (!contract || !fit) return [];
    const { mid, views } = contract;
    const row = (name: string, key: string, title: string, of: (view: (typeof views)[number]['view']) => string) => ({
      ...{ name, key, title },
      cells: views.map(({ view }) => of(view)),
    });
    return [
      row('vol', 'vol', 'in points', (view) => figures.vol(view.vol)),
      row('theory', 'theory', 'theoretical value', (view) => short(view.theory)),
      row('edge', 'edge', 'mid less theory: what the quote is rich by', (view) => shortSigned(mid - view.theory)),
      row('delta', 'delta', 'change of the price per unit of price', (view) => figures.fixed(view.delta, 2)),
      row('itm', 'itm', 'odds to end in the money, per cent', (view) => percent(view.itm)),
      row('touch', 'touch', 'odds to touch the strike, per cent', (view) => percent(view.touch)),
      row('even', 'breakEven', 'odds to end beyond the break-even, per cent', (view) => percent(view.breakEven)),
      row('±1 σ', 'move', 'expected move: one deviation on this vol', (view) =>
        short(fit.forward * view.vol * Math.sqrt(fit.years)),
      ),
    ];
  });
  const SHORT = {
    own: 'own',
    curve: 'curve',
    level: 'level',
    index: 'index',
    realized: 'real.',
    manual: 'man.',
  } as const;
  const realizedWords = $derived.by(() => {
    const { realizedBy, realizedWindow, pastLaw } = bench.context;
    const window = realizedWindow === 0 ? fit?.sessions : realizedWindow;
    const law = pastLaw === 'lognormal' ? '' : ', odds of past paths';
    return `${realizedBy}, ${figures.counted(window ?? 0, 'session')}${law}`;
  });

  const heads = $derived<readonly Head[]>([
    { label: '', class: 'w-[44px]' },
    ...(contract?.views ?? []).map(({ basis }): Head => ({
      label: basis,
      hasParts: true,
      class: `px-[1px]! last:pr-2! ${basis === shown?.basis ? 'bg-band! font-semibold! text-ink!' : ''}`,
    })),
  ]);
</script>

{#snippet pair(name: string, value: string, key?: string)}
  <div class="flex items-baseline justify-between gap-2 border-b border-dotted border-line py-1">
    <dt class="text-soft">{name}</dt>
    <dd class="figures m-0">
      {#if key}<Worked open={() => bench.dialogs.openWorking(key)}>{value}</Worked>{:else}{value}{/if}
    </dd>
  </div>
{/snippet}

<section class="panel flex-1 overflow-y-auto" aria-label="Close-up" data-testid="close-up">
  {#if contract && lit && fit}
    <div class="flex items-start px-3 pt-2.5">
      <div class="min-w-0 flex-1">
        <h2 class="text-[15px] font-bold" data-testid="lit">
          {shortExpiry(lit)}
          {figures.strike(lit.strike)}
          {lit.side}
        </h2>
        <p class="m-0 text-[11.5px] text-soft">
          {figures.days(fit.days)} days · {where} · ×{figures.fixed(bench.market.underlying?.multiplier, 0)}
        </p>
      </div>
      <button
        class="cursor-pointer text-soft hover:text-ink"
        title="Fold away"
        aria-label="Fold the close-up away"
        onclick={onfold}
      >
        <PanelRightClose size={16} />
      </button>
    </div>
    <dl class="m-0 grid grid-cols-2 gap-x-2 px-3 pt-1.5 xl:gap-x-3">
      {@render pair('bid', figures.fixed(contract.bid, decimals))}
      {@render pair('ask', figures.fixed(contract.ask, decimals))}
      {@render pair('mid', figures.fixed(contract.mid, decimals), 'mid')}
      {@render pair('theory', figures.fixed(contract.chosen.theory, decimals), 'theory')}
      {@render pair(
        `vol${shown && shown.quotes !== 'mid' ? ` ${shown.quotes}` : ''}`,
        figures.vol(contract.vol),
        'vol',
      )}
      {@render pair(edgeWords, figures.fixed(Math.abs(contract.edge), decimals), 'edge')}
      {@render pair('delta', figures.fixed(contract.chosen.delta, 3), 'delta')}
      {@render pair(
        'gamma',
        figures.fixed(contract.chosen.gamma, figures.gammaDecimals(shown?.snapshot.price)),
        'gamma',
      )}
      {@render pair('theta', figures.fixed(contract.chosen.theta, decimals + 1), 'theta')}
      {@render pair('vega', figures.fixed(contract.chosen.vega, decimals + 1), 'vega')}
      {@render pair('volume', figures.count(contract.volume))}
      {@render pair('open int.', figures.count(contract.openInterest))}
    </dl>
    {#if fit.borrowed}
      <p class="m-0 px-3 pt-2 text-[11.5px] text-implied">⋯ {borrowedWords(fit.borrowed)}.</p>
    {/if}
    {#if contract.reason !== 0}
      {@const reason = reasonName(contract.reason)}
      <p class="m-0 flex items-baseline gap-2 px-3 pt-2 text-[12px] text-loss">
        <span class="flex-1">◆ {reasonWords(reason)}.</span>
        {#if isSetAside(reason) && !bench.moment.live}
          <button class="btn btn-xs" onclick={() => exclude(reason === 'by-hand' ? null : 'use')}>use it</button>
        {/if}
      </p>
    {:else if !bench.moment.live}
      <button
        class="mx-3 mt-1 cursor-pointer self-start text-[11.5px] text-soft underline decoration-dotted hover:text-ink"
        onclick={() => exclude('aside')}>set this quote aside</button
      >
    {/if}
    <h3 class="px-3 pt-3 pb-1 text-[12px] font-semibold text-soft">
      One contract, six volatilities; odds in %{unit < 1 ? `, prices in ${figures.fixed(unit, decimals)}` : ''}
    </h3>
    <DataGrid
      label="The contract by basis"
      {heads}
      {rows}
      keyOf={({ key }) => key}
      isDense
      class="table-fixed [&_.cell]:px-[1px]! [&_.cell]:text-[10.5px]!"
      testid="bases"
      area="flex-none"
    >
      {#snippet head({ label }: Head)}
        {@const basis = label as Basis}
        <button
          class="cursor-pointer hover:text-ink {basis === 'realized' ? 'text-realized' : ''}"
          title="Use the {basis} basis everywhere"
          aria-label="{SHORT[basis]} {SHORT[basis] === basis ? '' : basis}"
          onclick={() => (bench.context.basis = basis)}>{SHORT[basis]}</button
        >
      {/snippet}
      {#snippet row({ name, key, title, cells })}
        <th class="py-0.5 pl-2 text-left text-[11.5px] font-normal whitespace-nowrap text-soft" {title}>{name}</th>
        {#each cells as cell, i (i)}
          {@const { basis } = contract.views[i]!}
          <td class="cell last:pr-2! {basis === shown?.basis ? 'bg-band font-semibold' : ''}" data-basis={basis}>
            <Worked open={() => bench.dialogs.openWorking(key, basis)}>{cell}</Worked>
          </td>
        {/each}
      {/snippet}
    </DataGrid>
    {#if sentence}<div class="px-3 pt-2.5"><Sentence {sentence} /></div>{/if}
    <h3 class="px-3 pt-3 text-[12px] font-semibold text-soft">A day, a point, and the expiry</h3>
    <dl class="m-0 grid grid-cols-2 gap-x-2 px-3 pb-3 xl:gap-x-3">
      {@render pair('1 day', figures.signed(contract.chosen.theta, decimals))}
      {@render pair('+1 vol', figures.signed(contract.chosen.vega, decimals))}
      {@render pair('even at', figures.fixed(contract.breakEven, decimals), 'breakEven')}
      {@render pair('exp. move', figures.plusMinus(fit.straddleMove, decimals), 'move')}
      {@render pair('forward', figures.fixed(fit.forward, decimals), 'forward')}
      {@render pair('±1 dev.', figures.plusMinus(fit.deviationMove, decimals), 'move')}
    </dl>
    <div class="mt-auto flex items-center gap-2 px-3 pb-2">
      <button class="btn btn-xs" onclick={() => bench.dialogs.openWorking()}
        >Show working <kbd class="kbd kbd-xs">w</kbd></button
      >
    </div>
    <p class="m-0 px-3 pb-2 text-[11px] text-soft">
      Greeks on the {shown?.basis} basis, per unit. Realized:
      <button class="cursor-pointer underline decoration-dotted hover:text-ink" onclick={onbases}
        >{realizedWords}</button
      >.
    </p>
  {:else}
    <p class="m-auto px-6 text-center text-soft">
      {bench.problem
        ? 'Nothing to show.'
        : bench.market.current?.snapshots.length === 0
          ? 'No chain of this underlying is held.'
          : 'Loading …'}
    </p>
  {/if}
</section>

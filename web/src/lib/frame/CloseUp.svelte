<script lang="ts">
  import PanelRightClose from '@lucide/svelte/icons/panel-right-close';
  import { reasonName } from '@umwelt/core';
  import { offerTable } from '$lib/exports/shown';
  import { borrowedWords, figures, isSetAside, oddsSentence, reasonWords, shortDay } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useWorkbench } from '$lib/state';
  import { basesTable, closeUpOf } from './close-up';

  let { onfold }: { onfold: () => void } = $props();

  const bench = useWorkbench();
  const lit = $derived(bench.lit);
  const shown = $derived(bench.shown);
  const fit = $derived(lit && shown ? shown.snapshot.slices[lit.slice]!.fit : null);
  const contract = $derived(lit && shown ? closeUpOf(shown, lit) : null);
  const sentence = $derived(contract ? oddsSentence(contract.views) : null);

  offerTable(
    'close-up',
    () => 'Close-up: one contract, five volatilities',
    () => (contract && shown && lit ? basesTable(contract, shown.snapshot, lit) : null),
  );

  function judge(verdict: 'use' | 'aside' | null): void {
    if (!lit || !fit) return;
    const { expiry, strike, side } = lit;
    void bench.judge({ expiry, settlement: fit.settlement, strike, side }, verdict);
  }

  const { decimals } = $derived(bench);
  const where = $derived.by(() => {
    if (!contract || !Number.isFinite(contract.distance)) return '';
    const size = figures.percent(Math.abs(contract.distance));
    return `${size} ${contract.distance < 0 ? 'under' : 'over'} the forward`;
  });
  const edgeWords = $derived(contract && contract.edge >= 0 ? 'rich by' : 'cheap by');
</script>

{#snippet pair(name: string, value: string)}
  <div class="flex items-baseline justify-between gap-2 border-b border-dotted border-line py-1">
    <dt class="text-soft">{name}</dt>
    <dd class="figures m-0">{value}</dd>
  </div>
{/snippet}

<aside class="panel flex-1 overflow-y-auto" aria-label="Close-up" data-testid="close-up">
  {#if contract && lit && fit}
    <div class="flex items-start px-3 pt-2.5">
      <div class="min-w-0 flex-1">
        <h2 class="text-[15px] font-bold" data-testid="lit">
          {shortDay(lit.expiry)}
          {figures.strike(lit.strike)}
          {lit.side}
        </h2>
        <p class="m-0 text-[11.5px] text-soft">
          {figures.days(fit.days)} days · {where} · ×{figures.fixed(bench.underlying?.multiplier, 0)}
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
      {@render pair('mid', figures.fixed(contract.mid, decimals))}
      {@render pair('theory', figures.fixed(contract.chosen.theory, decimals))}
      {@render pair(`vol${shown && shown.quotes !== 'mid' ? ` ${shown.quotes}` : ''}`, figures.vol(contract.vol))}
      {@render pair(edgeWords, figures.fixed(Math.abs(contract.edge), decimals))}
      {@render pair('delta', figures.fixed(contract.chosen.delta, 3))}
      {@render pair('gamma', figures.fixed(contract.chosen.gamma, figures.gammaDecimals(shown?.snapshot.price)))}
      {@render pair('theta', figures.fixed(contract.chosen.theta, decimals + 1))}
      {@render pair('vega', figures.fixed(contract.chosen.vega, decimals + 1))}
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
        {#if isSetAside(reason) && !bench.live}
          <button class="btn btn-xs" onclick={() => judge(reason === 'by-hand' ? null : 'use')}>use it</button>
        {/if}
      </p>
    {:else if !bench.live}
      <button
        class="mx-3 mt-1 cursor-pointer self-start text-[11.5px] text-soft underline decoration-dotted hover:text-ink"
        onclick={() => judge('aside')}>set this quote aside</button
      >
    {/if}
    <h3 class="px-3 pt-3 pb-1 text-[12px] font-semibold text-soft">One contract, five volatilities; odds in %</h3>
    <table
      class="dense w-full border-collapse max-xl:[&_.cell]:px-0.5! max-xl:[&_.cell]:text-[10.5px]!"
      data-testid="bases"
    >
      <thead>
        <tr class="border-b border-line text-[11px] text-soft">
          <th class="px-2 text-left font-normal">basis</th>
          <th class="px-1 text-right font-normal">vol</th>
          <th class="px-1 text-right font-normal">price</th>
          <th class="px-1 text-right font-normal">delta</th>
          <th class="px-1 text-right font-normal">itm</th>
          <th class="px-2 text-right font-normal">touch</th>
        </tr>
      </thead>
      <tbody>
        {#each contract.views as { basis, view } (basis)}
          <tr
            class="cursor-pointer border-b border-line hover:bg-band {basis === shown?.basis
              ? 'bg-band font-semibold'
              : ''}"
            aria-selected={basis === shown?.basis}
            onclick={() => (bench.context.basis = basis)}
          >
            <th class="px-2 py-0.5 text-left font-[inherit]">
              <button class="cursor-pointer" title="Use the {basis} basis everywhere">{basis}</button>
            </th>
            <td class="cell px-1! {basis === 'realized' ? 'text-realized' : ''}">{figures.vol(view.vol)}</td>
            <td class="cell px-1!">{figures.fixed(view.theory, decimals)}</td>
            <td class="cell px-1!">{figures.fixed(view.delta, 3)}</td>
            <td class="cell px-1!">{figures.fixed(100 * view.itm, 1)}</td>
            <td class="cell">{figures.fixed(100 * view.touch, 1)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if sentence}<div class="px-3 pt-2.5"><Sentence {sentence} /></div>{/if}
    <h3 class="px-3 pt-3 text-[12px] font-semibold text-soft">A day, a point, and the expiry</h3>
    <dl class="m-0 grid grid-cols-2 gap-x-2 px-3 pb-3 xl:gap-x-3">
      {@render pair('1 day', figures.signed(contract.chosen.theta, decimals))}
      {@render pair('+1 vol', figures.signed(contract.chosen.vega, decimals))}
      {@render pair('even at', figures.fixed(contract.breakEven, decimals))}
      {@render pair('exp. move', figures.plusMinus(fit.straddleMove, decimals))}
      {@render pair('forward', figures.fixed(fit.forward, decimals))}
      {@render pair('±1 dev.', figures.plusMinus(fit.deviationMove, decimals))}
    </dl>
    <p class="m-0 mt-auto px-3 pb-2 text-[11px] text-soft">
      Greeks on the {shown?.basis} basis, per unit. Realized: Yang–Zhang, 20 sessions.
    </p>
  {:else}
    <p class="m-auto px-6 text-center text-soft">
      {bench.problem
        ? 'Nothing to show.'
        : bench.current?.snapshots.length === 0
          ? 'No chain of this underlying is held.'
          : 'Loading …'}
    </p>
  {/if}
</aside>

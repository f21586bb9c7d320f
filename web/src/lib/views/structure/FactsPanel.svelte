<script lang="ts">
  import type { MarketEvaluation } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import type { StructureDesk } from './desk.svelte';
  import { oddsOf } from './words';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const decimals = $derived(bench.market.decimals);
  const answer = $derived(desk.answer);

  interface Fact {
    name: string;
    title: string;
    text: (found: MarketEvaluation) => string;
    /** What it has changed by against the market as it is; without where that says nothing. */
    value?: (found: MarketEvaluation) => number;
    change?: (by: number) => string;
  }

  const money = (value: number | undefined) =>
    value === Infinity ? 'no end' : figures.fixed(value === undefined ? null : value * desk.times, desk.digits);
  const signedMoney = (value: number) => figures.signed(value * desk.times, desk.digits);
  const percentBy = (by: number) => `${figures.signed(100 * by, 1)}`;
  const odds = (name: 'curve' | 'past', field: 'profit' | 'expected' | 'worst5') => (found: MarketEvaluation) =>
    oddsOf(found, name)?.[field] ?? NaN;

  const FACTS: readonly Fact[] = [
    {
      ...{ name: 'costs worst / mid / best', title: 'positive where money is paid' },
      text: ({ cost }) => [cost.worst, cost.mid, cost.best].map(money).join(' / '),
    },
    {
      name: 'value',
      title: 'on the basis',
      text: ({ values }) => money(values.value),
      value: ({ values }) => values.value,
      change: signedMoney,
    },
    {
      name: 'most to gain',
      title: 'at the first expiry',
      text: ({ profile }) => money(profile.maxProfit),
      value: ({ profile }) => profile.maxProfit,
      change: signedMoney,
    },
    {
      name: 'most to lose',
      title: 'at the first expiry',
      text: ({ profile }) => money(profile.maxLoss),
      value: ({ profile }) => profile.maxLoss,
      change: signedMoney,
    },
    {
      ...{ name: 'break-evens', title: 'at the first expiry' },
      text: ({ profile }) => profile.breakEvens.map((price) => figures.fixed(price, decimals)).join(' · ') || '–',
    },
    {
      name: 'odds of profit, curve',
      title: 'by the law of the curve',
      text: (found) => figures.percent(odds('curve', 'profit')(found)),
      value: odds('curve', 'profit'),
      change: percentBy,
    },
    {
      name: 'odds of profit, past',
      title: 'by past moves of that length',
      text: (found) => figures.percent(odds('past', 'profit')(found)),
      value: odds('past', 'profit'),
      change: percentBy,
    },
    {
      name: 'expected, curve',
      title: 'mean profit by the law of the curve',
      text: (found) => signedMoney(odds('curve', 'expected')(found)),
      value: odds('curve', 'expected'),
      change: signedMoney,
    },
    {
      name: 'expected, past',
      title: 'mean profit by past moves of that length',
      text: (found) => signedMoney(odds('past', 'expected')(found)),
      value: odds('past', 'expected'),
      change: signedMoney,
    },
    {
      name: 'worst twentieth, curve',
      title: 'mean of the worst twentieth of outcomes',
      text: (found) => signedMoney(odds('curve', 'worst5')(found)),
      value: odds('curve', 'worst5'),
      change: signedMoney,
    },
    {
      ...{ name: 'return on risk', title: 'most to gain over the capital at risk' },
      text: ({ profile, capitalAtRisk }) =>
        figures.percent(Number.isFinite(profile.maxProfit) ? profile.maxProfit / capitalAtRisk : null),
    },
    {
      ...{
        name: 'capital at risk',
        title: 'the most that can be lost; the worst cell of the stress where that has no end',
      },
      text: ({ capitalAtRisk }) => money(capitalAtRisk),
    },
    {
      ...{ name: 'vol bought / sold', title: 'mean vols weighted by vega' },
      text: ({ volBought, volSold }) => `${figures.vol(volBought)} / ${figures.vol(volSold)}`,
    },
  ];
  const GREEKS = ['delta', 'gamma', 'theta', 'vega'] as const;
  const greekDigits = $derived({ delta: 2, gamma: 4, theta: desk.digits + 1, vega: desk.digits + 1 });
</script>

<section class="panel min-h-0 flex-1" aria-label="Facts">
  <h2 class="flex-none px-3 pt-2 text-[15px] font-bold">Facts</h2>
  {#if answer}
    {@const { evaluation } = answer}
    {@const { still } = desk}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="min-h-0 flex-1 overflow-auto px-3 pb-2 text-[12.5px]" tabindex="0" role="group" aria-label="All facts">
      <dl data-testid="structure-facts">
        {#each FACTS as { name, title, text, value, change } (name)}
          <div class="flex items-baseline gap-2 border-b border-dotted border-line py-px">
            <dt class="min-w-0 flex-1 truncate" {title}>{name}</dt>
            <dd class="figures m-0 flex-none">
              {text(evaluation)}
              {#if still && value && change}
                {@const by = value(evaluation) - value(still)}
                {#if Number.isFinite(by) && /[1-9]/.test(change(by))}<span
                    class="text-soft"
                    title="against the market as it is">({change(by)})</span
                  >{/if}
              {/if}
            </dd>
          </div>
        {/each}
      </dl>
      <div class="mt-2 grid grid-cols-2 gap-x-4" role="group" aria-label="Greeks of the whole">
        {#each GREEKS as name (name)}
          <span class="flex border-b border-dotted border-line py-px"
            ><span class="flex-1">{name}</span><span class="figures"
              >{figures.signed(evaluation.values[name] * desk.times, greekDigits[name])}</span
            ></span
          >
        {/each}
        <span class="flex border-b border-dotted border-line py-px" title="for a point of 25-delta risk reversal"
          ><span class="flex-1">skew</span><span class="figures">{signedMoney(evaluation.skew)}</span></span
        >
        <span class="flex border-b border-dotted border-line py-px" title="for a point of 25-delta butterfly"
          ><span class="flex-1">curvature</span><span class="figures">{signedMoney(evaluation.curvature)}</span></span
        >
      </div>
    </div>
  {:else}
    <p class="m-auto text-soft">{desk.problem ?? 'Working out …'}</p>
  {/if}
</section>

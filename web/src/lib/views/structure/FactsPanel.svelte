<script lang="ts">
  import { MOVED_GREEKS, type MovedGreek } from '@umwelt/core';
  import type { ToldEvaluation } from '$lib/data';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import type { StructureDesk } from './desk.svelte';
  import { KeyArea, Worked } from '$lib/ui';
  import { oddsAddress } from './asked';
  import { factsOf } from './facts';
  import { factsWork } from './work';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const answer = $derived(desk.told);
  const beside = $derived(answer?.beside?.evaluation ?? null);
  const facts = $derived(factsOf({ times: desk.times, digits: desk.digits, decimals: bench.market.decimals }));

  const signedMoney = (value: number) => figures.signed(value * desk.times, desk.digits);
  const greekDigits = $derived<Record<MovedGreek, number>>({
    ...{ delta: 2, gamma: 4, theta: desk.digits + 1, vega: desk.digits + 1, rho: desk.digits + 1 },
    ...{ vanna: 3, volga: 3, charm: 3, veta: 3 },
  });
  /** Sensitivities of the whole, each with what one of it is. */
  const rows = $derived([
    ...MOVED_GREEKS.map((name) => ({
      ...{ name: name as string, title: undefined as string | undefined },
      text: ({ values }: ToldEvaluation) => figures.signed(values[name] * desk.times, greekDigits[name]),
    })),
    {
      ...{ name: 'skew', title: 'for a point of 25-delta risk reversal' },
      text: ({ skew }: ToldEvaluation) => signedMoney(skew),
    },
    {
      ...{ name: 'curvature', title: 'for a point of 25-delta butterfly' },
      text: ({ curvature }: ToldEvaluation) => signedMoney(curvature),
    },
  ]);
  /** Two of them in a row; one where something stands beside. */
  const pairs = $derived.by(() => {
    const breadth = beside ? 1 : 2;
    return Array.from({ length: Math.ceil(rows.length / breadth) }, (_, i) =>
      rows.slice(i * breadth, (i + 1) * breadth),
    );
  });

  /** Beside another column there is room for one number a line. */
  const lined = (text: string) => (beside ? text.replaceAll(/ [/·] |, /g, '\n') : text);

  function open(name: string): void {
    if (!answer) return;
    const { symbol } = answer.shown.snapshot;
    bench.dialogs.work = factsWork({ request: answer.request, answer, times: desk.times, symbol }, name);
  }

  /** Odds with the break-evens as the levels of its zones; null without any. */
  const inOdds = $derived.by(() => {
    const levels = answer?.evaluation.profile.breakEvens ?? [];
    return levels.length > 0 ? oddsAddress(bench.address.query, levels, bench.market.decimals) : null;
  });

  const copied = () =>
    answer ? [...facts, ...rows].map(({ name, text }) => `${name}\t${text(answer.evaluation)}`).join('\n') : '';
</script>

<section class="panel min-h-0 flex-1" aria-label="Facts">
  <header class="flex flex-none items-baseline gap-3 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Facts</h2>
    <span class="ml-auto text-[11px] text-soft">{beside ? 'in hand · beside' : ''}</span>
    {#if inOdds}<a
        class="text-[11.5px] text-soft underline decoration-dotted underline-offset-2 hover:text-ink"
        href={inOdds}
        title="Odds with the break-evens as the levels of its zones">in Odds</a
      >{/if}
  </header>
  {#if answer}
    {@const { evaluation } = answer}
    {@const { still } = desk}
    <KeyArea label="All facts" class="min-h-0 flex-1 overflow-auto px-3 pb-2 text-[12.5px]" {copied}>
      <table class="w-full border-collapse {beside ? 'table-fixed' : ''}" data-testid="structure-facts">
        <tbody>
          {#each facts as { name, title, text, value, change } (name)}
            <tr class="border-b border-dotted border-line">
              <th class="py-px text-left align-top font-normal {beside ? 'w-[38%]' : ''}" {title}>{name}</th>
              <td class="figures py-px text-right align-top [&_button]:text-right {beside ? 'whitespace-pre!' : ''}"
                ><Worked open={() => open(name)}>{lined(text(evaluation))}</Worked>
                {#if still && value && change && !beside}
                  {@const by = value(evaluation) - value(still)}
                  {#if Number.isFinite(by) && /[1-9]/.test(change(by))}<span
                      class="text-soft"
                      title="against the market as it is">({change(by)})</span
                    >{/if}
                {/if}</td
              >
              {#if beside}<td
                  class="figures py-px pl-2 text-right align-top whitespace-pre! text-soft"
                  title="what stands beside">{lined(text(beside))}</td
                >{/if}
            </tr>
          {/each}
        </tbody>
      </table>
      <table class="mt-2 w-full border-collapse" aria-label="Greeks of the whole" data-testid="structure-greeks">
        <tbody>
          {#each pairs as pair, i (i)}
            <tr class="border-b border-dotted border-line">
              {#each pair as { name, title, text }, side (name)}
                <th class="py-px text-left font-normal {side > 0 ? 'pl-4' : ''}" {title}>{name}</th>
                <td class="figures py-px text-right"
                  ><Worked open={() => open(name)}>{text(evaluation)}</Worked>{#if beside}<span
                      class="text-soft"
                      title="what stands beside"
                    >
                      · {text(beside)}</span
                    >{/if}</td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </KeyArea>
  {:else}
    <p class="m-auto text-soft">{desk.waiting}</p>
  {/if}
</section>

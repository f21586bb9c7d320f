<script lang="ts">
  import { MOVED_GREEKS, type MarketEvaluation, type MovedGreek } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import type { StructureDesk } from './desk.svelte';
  import { factsOf } from './facts';

  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const answer = $derived(desk.answer);
  const beside = $derived(desk.before?.evaluation ?? null);
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
      text: ({ values }: MarketEvaluation) => figures.signed(values[name] * desk.times, greekDigits[name]),
    })),
    {
      ...{ name: 'skew', title: 'for a point of 25-delta risk reversal' },
      text: ({ skew }: MarketEvaluation) => signedMoney(skew),
    },
    {
      ...{ name: 'curvature', title: 'for a point of 25-delta butterfly' },
      text: ({ curvature }: MarketEvaluation) => signedMoney(curvature),
    },
  ]);
</script>

<section class="panel min-h-0 flex-1" aria-label="Facts">
  <header class="flex flex-none items-baseline gap-3 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Facts</h2>
    {#if beside}<span class="ml-auto text-[11px] text-soft">in hand · beside</span>{/if}
  </header>
  {#if answer}
    {@const { evaluation } = answer}
    {@const { still } = desk}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="min-h-0 flex-1 overflow-auto px-3 pb-2 text-[12.5px]" tabindex="0" role="group" aria-label="All facts">
      <dl data-testid="structure-facts">
        {#each facts as { name, title, text, value, change } (name)}
          <div class="flex flex-wrap items-baseline gap-x-2 border-b border-dotted border-line py-px">
            <dt class="flex-none" {title}>{name}</dt>
            <dd class="figures m-0 ml-auto text-right">
              {text(evaluation)}
              {#if still && value && change}
                {@const by = value(evaluation) - value(still)}
                {#if Number.isFinite(by) && /[1-9]/.test(change(by))}<span
                    class="text-soft"
                    title="against the market as it is">({change(by)})</span
                  >{/if}
              {/if}
              {#if beside}<span class="text-soft" title="what stands beside">· {text(beside)}</span>{/if}
            </dd>
          </div>
        {/each}
      </dl>
      <div
        class="mt-2 grid gap-x-4 {beside ? 'grid-cols-1' : 'grid-cols-2'}"
        role="group"
        aria-label="Greeks of the whole"
      >
        {#each rows as { name, title, text } (name)}
          <span class="flex gap-2 border-b border-dotted border-line py-px" {title}
            ><span class="flex-1">{name}</span><span class="figures"
              >{text(evaluation)}{#if beside}<span class="text-soft" title="what stands beside">
                  · {text(beside)}</span
                >{/if}</span
            ></span
          >
        {/each}
      </div>
    </div>
  {:else}
    <p class="m-auto text-soft">{desk.waiting}</p>
  {/if}
</section>

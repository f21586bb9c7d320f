<script lang="ts">
  import { reasonName, type ExpiryFit } from '@umwelt/core';
  import { expiryAsideWords, figures, reasonWords, shortExpiry } from '$lib/formats';
  import { useWorkbench } from '$lib/state';

  type Judged = Pick<ExpiryFit, 'expiry' | 'settlement' | 'aside' | 'expiryAside'>;

  /**
   * @prop fits the expiries whose quotes are listed
   * @prop hasExpiries whether whole expiries are brought back here too
   * @prop isStill whether something can be set aside here
   */
  let {
    fits,
    hasExpiries = true,
    isStill = true,
  }: { fits: readonly Judged[]; hasExpiries?: boolean; isStill?: boolean } = $props();

  const bench = useWorkbench();
  const aside = $derived(fits.flatMap((fit) => fit.aside.map((one) => ({ ...one, fit }))));
</script>

{#each fits.filter(({ expiryAside }) => expiryAside !== null) as fit (fit.expiry + fit.settlement)}
  <p class="m-0 flex items-baseline gap-2 px-3 pt-1 text-[12px] text-loss">
    <span class="flex-1">◆ {shortExpiry(fit)} is {expiryAsideWords(fit.expiryAside!)}.</span>
    {#if hasExpiries && isStill && !bench.moment.live}
      <button
        class="btn btn-xs"
        aria-label="Use {shortExpiry(fit)} again"
        onclick={() =>
          bench.exclusions.decide(
            { expiry: fit.expiry, settlement: fit.settlement },
            fit.expiryAside === 'by-hand' ? null : 'use',
          )}>use</button
      >
    {/if}
  </p>
{/each}
<ul class="m-0 list-none p-0 px-3 py-1 text-[12px]" aria-label="Quotes set aside">
  {#each aside as { fit, strike, side, reason } (fit.expiry + fit.settlement + side + strike)}
    <li class="flex items-baseline gap-2 py-0.5">
      <span class="figures flex-none">{shortExpiry(fit)} {figures.strike(strike)} {side}</span>
      <span class="flex-1 text-loss">◆ {reasonWords(reasonName(reason))}</span>
      {#if isStill && !bench.moment.live}
        <button
          class="btn btn-xs"
          onclick={() =>
            bench.exclusions.decide(
              { expiry: fit.expiry, settlement: fit.settlement, strike, side },
              reasonName(reason) === 'by-hand' ? null : 'use',
            )}>use</button
        >
      {/if}
    </li>
  {/each}
</ul>

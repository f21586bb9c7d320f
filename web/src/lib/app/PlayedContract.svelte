<script lang="ts">
  import { curveVol, priceContract } from '@umwelt/core';
  import type { CurveExpiry } from '$lib/film';
  import { figures, shortExpiry } from '$lib/formats';
  import { expiryIndex, useWorkbench } from '$lib/state';

  /** The focused contract while the past plays: what its curve says, since quotes come when it rests. */
  const bench = useWorkbench();

  const expiry = $derived.by((): CurveExpiry | null => {
    const { frame } = bench.playback;
    return frame?.expiries[expiryIndex(frame.expiries, bench.context)] ?? null;
  });
  const strike = $derived(bench.context.strike ?? expiry?.forward ?? NaN);
  const side = $derived(bench.context.side ?? (expiry && strike < expiry.forward ? 'put' : 'call'));
  const vol = $derived(expiry?.curve ? curveVol(expiry.curve, Math.log(strike / expiry.forward)) : NaN);
  const values = $derived(
    expiry && vol > 0
      ? priceContract({
          model: 'black-76',
          side,
          forward: expiry.forward,
          strike,
          years: expiry.years,
          rate: expiry.rate,
          vol,
        })
      : null,
  );
  const pairs = $derived<readonly [string, string][]>(
    expiry
      ? [
          ['vol', figures.vol(vol)],
          ['theory', figures.fixed(values?.price, bench.market.decimals)],
          ['delta', figures.fixed(values?.delta, 3)],
          ['vega', figures.fixed(values?.vega, bench.market.decimals + 1)],
          ['forward', figures.fixed(expiry.forward, bench.market.decimals)],
          ['ATM', figures.vol(expiry.atmVol)],
          ['RR 25', figures.volChange(expiry.riskReversal25)],
          ['BF 25', figures.volChange(expiry.butterfly25)],
          ['exp. move', figures.plusMinus(expiry.straddleMove, bench.market.decimals)],
          ['±1 dev.', figures.plusMinus(expiry.deviationMove, bench.market.decimals)],
        ]
      : [],
  );
</script>

<section class="panel flex-1 overflow-hidden" aria-label="Close-up" data-testid="close-up">
  {#if expiry}
    <h2 class="px-3 pt-2.5 text-[15px] font-bold">
      {shortExpiry(expiry)}
      {bench.context.strike === null ? 'at the money' : `${figures.strike(strike)} ${side}`}
    </h2>
    <p class="m-0 px-3 text-[11.5px] text-soft">{figures.days(expiry.days)} days · while it plays, from the curve</p>
    <dl class="m-0 grid grid-cols-2 gap-x-2 px-3 pt-1.5 xl:gap-x-3">
      {#each pairs as [name, value] (name)}
        <div class="flex items-baseline justify-between gap-2 border-b border-dotted border-line py-1">
          <dt class="text-soft">{name}</dt>
          <dd class="figures m-0">{value}</dd>
        </div>
      {/each}
    </dl>
    <p class="px-3 pt-3 text-[11.5px] text-soft">
      Quotes, the five volatilities and their odds follow when it rests. Theory and Greeks are on the forward, of
      European exercise.
    </p>
  {/if}
</section>

<script lang="ts">
  import { expiryClass, expiryName } from '@umwelt/core';
  import { depthColor } from '$lib/charts';
  import type { KnownExpiry } from '$lib/film';
  import { borrowedWords, expiryAsideWords, figures, shapeWords, shortExpiry } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import { useTheme, useParams, useWorkbench } from '$lib/state';
  import { hiddenOf, toggleExpiry } from './hidden';
  import { PARAMS } from './params';

  let { fits, lit }: { fits: readonly KnownExpiry[]; lit: number | null } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const hidden = $derived(hiddenOf(bench.snapshot.expiries, params));
</script>

<div class="min-h-0 flex-1 overflow-auto">
  <table class="dense w-full border-collapse" data-testid="expiries">
    <thead>
      <tr>
        <th class="head-cell pl-3! text-left!">expiry</th>
        <th class="head-cell" title="calendar days">days</th>
        <th class="head-cell" title="curve at the forward, points">ATM</th>
        <th class="head-cell" title="25-delta call less put, points">RR 25</th>
        <th class="head-cell hidden 2xl:table-cell" title="25-delta wings over the middle, points">BF 25</th>
        <th class="head-cell" title="straddle at the forward">move</th>
        <th class="head-cell pr-3!" title="contracts used, of all quoted">used</th>
      </tr>
    </thead>
    <tbody>
      {#each fits as fit, i (fit.expiry + fit.settlement)}
        {@const isHidden = hidden.has(expiryName(fit))}
        <tr
          class="h-[24px] cursor-pointer border-b border-line hover:bg-band {i === lit ? 'bg-band font-semibold' : ''}"
          aria-selected={i === lit}
          onclick={() => bench.focus.set({ expiry: fit.expiry, settlement: fit.settlement })}
        >
          <td class="pl-3 whitespace-nowrap">
            <button
              class="mr-1 inline-grid size-4 cursor-pointer place-items-center rounded-[2px] border align-[-3px]"
              style="border-color: {depthColor(fit.days, theme.tokens)}; background: {isHidden
                ? 'transparent'
                : depthColor(fit.days, theme.tokens)}"
              aria-pressed={!isHidden}
              aria-label="{isHidden ? 'Show' : 'Hide'} the skew of {shortExpiry(fit)}"
              title={isHidden ? 'Show in the skew' : 'Hide from the skew'}
              onclick={(event) => {
                event.stopPropagation();
                toggleExpiry(bench.snapshot.expiries, params, fit);
              }}
            ></button>
            <span
              class="figures {fit.expiryAside ? 'text-loss line-through' : ''}"
              title={fit.expiryAside ? expiryAsideWords(fit.expiryAside) : undefined}>{shortExpiry(fit)}</span
            >
            {#if fit.shape && fit.shape !== 'own'}<span class="text-[11px] text-soft" title={shapeWords(fit)}>~</span
              >{/if}
            {#if fit.borrowed}<span class="text-[11px] text-implied" title={borrowedWords(fit.borrowed)}>⋯</span>{/if}
            {#if i === lit && !bench.moment.live && !bench.playback.frame}
              <button
                class="cursor-pointer rounded px-0.5 text-[12px] leading-none font-normal text-soft hover:text-ink"
                title={fit.expiryAside
                  ? 'use this expiry again, from here on'
                  : 'leave this expiry out of all measures and curves, from here on'}
                aria-label="{fit.expiryAside ? 'Use' : 'Set aside'} {shortExpiry(fit)}"
                onclick={(event) => {
                  event.stopPropagation();
                  const decision = fit.expiryAside ? (fit.expiryAside === 'by-hand' ? null : 'use') : 'aside';
                  void bench.exclusions.decide({ expiry: fit.expiry, settlement: fit.settlement }, decision);
                }}>{fit.expiryAside ? '↺' : '×'}</button
              >
            {:else}
              <span class="text-[11px] font-normal text-soft" title={expiryClass(bench.market.calendar, fit.expiry)}
                >{expiryClass(bench.market.calendar, fit.expiry).charAt(0)}</span
              >
            {/if}
          </td>
          <td class="cell">{figures.days(fit.days)}</td>
          <td class="cell" title={shapeWords(fit)}
            >{figures.vol(fit.atmVol)}{#if !fit.borrowed}<Doubt
                text={figures.volDoubt(fit.atmVolUncertainty)}
              />{/if}</td
          >
          <td class="cell"
            >{figures.volChange(fit.riskReversal25)}{#if !fit.borrowed}<Doubt
                text={figures.volDoubt(fit.riskReversal25Uncertainty)}
              />{/if}</td
          >
          <td class="cell hidden 2xl:table-cell">{figures.volChange(fit.butterfly25)}</td>
          <td class="cell"
            >{figures.plusMinus(fit.straddleMove, fit.straddleMove >= 100 ? 0 : bench.market.decimals)}</td
          >
          <td class="cell pr-3!"
            >{figures.count(fit.usable)}<span class="hidden text-soft xl:inline">/{figures.count(fit.contracts)}</span
            ></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</div>

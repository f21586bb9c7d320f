<script lang="ts">
  import { expiryClass, expiryName } from '@umwelt/core';
  import { depthColor } from '$lib/charts';
  import type { KnownExpiry } from '$lib/film';
  import { borrowedWords, expiryAsideWords, figures, shapeWords, shortExpiry } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import { useTheme, useParams, useWorkbench } from '$lib/state';
  import { DataGrid, type Head } from '$lib/ui';
  import { hiddenOf, toggleExpiry } from './hidden';
  import { PARAMS } from './params';

  let { fits, lit }: { fits: readonly KnownExpiry[]; lit: number | null } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const hidden = $derived(hiddenOf(bench.snapshot.expiries, params));

  const HEADS: readonly Head[] = [
    { label: 'expiry', align: 'left' },
    { label: 'days', title: 'calendar days' },
    { label: 'ATM', title: 'curve at the forward, points' },
    { label: 'RR 25', title: '25-delta call less put, points' },
    { label: 'BF 25', title: '25-delta wings over the middle, points', class: 'hidden 2xl:table-cell' },
    { label: 'move', title: 'straddle at the forward' },
    { label: 'used', title: 'contracts used, of all quoted' },
  ];
</script>

<DataGrid
  label="Expiries"
  heads={HEADS}
  rows={fits}
  keyOf={(fit) => fit.expiry + fit.settlement}
  isDense
  isEdged
  testid="expiries"
  isLit={(_, i) => i === lit}
  rowClass="h-[24px]"
  onchoose={(fit) => bench.focus.set({ expiry: fit.expiry, settlement: fit.settlement })}
>
  {#snippet row(fit, i)}
    {@const isHidden = hidden.has(expiryName(fit))}

    <td class="whitespace-nowrap">
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
      {#if fit.shape && fit.shape !== 'own'}<span class="text-[11px] text-soft" title={shapeWords(fit)}>~</span>{/if}
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
      >{figures.vol(fit.atmVol)}{#if !fit.borrowed}<Doubt text={figures.volDoubt(fit.atmVolUncertainty)} />{/if}</td
    >
    <td class="cell"
      >{figures.volChange(fit.riskReversal25)}{#if !fit.borrowed}<Doubt
          text={figures.volDoubt(fit.riskReversal25Uncertainty)}
        />{/if}</td
    >
    <td class="cell hidden 2xl:table-cell">{figures.volChange(fit.butterfly25)}</td>
    <td class="cell">{figures.plusMinus(fit.straddleMove, fit.straddleMove >= 100 ? 0 : bench.market.decimals)}</td>
    <td class="cell"
      >{figures.count(fit.usable)}<span class="hidden text-soft xl:inline">/{figures.count(fit.contracts)}</span></td
    >
  {/snippet}
</DataGrid>

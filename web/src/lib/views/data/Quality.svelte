<script lang="ts">
  import { QUALITY_WEIGHTS, type QualityParts } from '@umwelt/core';
  import { offerTable } from '$lib/exports';
  import { expiryAsideWords, figures, shortExpiry } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import DoubtfulList from './DoubtfulList.svelte';
  import { AsideList } from '$lib/panels';
  import { qualityTable } from '$lib/tables';
  import { DataGrid, type Head } from '$lib/ui';

  const bench = useWorkbench();

  const PARTS: { name: keyof QualityParts; label: string; title: string }[] = [
    { name: 'usable', label: 'usable', title: 'share of contracts that can be used' },
    { name: 'spread', label: 'spread', title: 'tightness of the quotes near the money' },
    { name: 'fit', label: 'fit', title: 'how closely the curve meets the quotes, in half spreads' },
    { name: 'coverage', label: 'cover', title: 'how much of one deviation to either side has usable strikes' },
    { name: 'fresh', label: 'fresh', title: 'few quotes that stood still' },
  ];
  const weight = (name: keyof QualityParts) => `${Math.round(100 * QUALITY_WEIGHTS[name])} % of the score`;

  const fits = $derived(bench.snapshot.shown?.snapshot.slices.map(({ fit }) => fit) ?? []);

  offerTable(
    'quality',
    () => `Quality of ${bench.context.symbol}`,
    () => (bench.snapshot.shown ? qualityTable(bench.snapshot.shown.snapshot) : null),
  );

  const HEADS: readonly Head[] = [
    { label: 'expiry', align: 'left' },
    { label: 'score' },
    ...PARTS.map(({ name, label, title }) => ({ label, title: `${title}; ${weight(name)}` })),
    { label: 'used' },
    { label: 'set aside', isHidden: true },
  ];
</script>

<section class="panel flex-1" aria-label="Quality">
  <header class="flex items-baseline gap-2.5 px-3 pt-2 pb-1">
    <h2 class="text-[15px] font-bold">Quality of {bench.context.symbol}</h2>
    <span class="truncate text-soft">
      {#if bench.moment.summary}<b class="text-ink">{figures.count(Math.round(bench.moment.summary.quality ?? NaN))}</b> of
        100 at this moment; each part from 0 to 100{/if}
    </span>
  </header>
  <div class="min-h-0 flex-1 overflow-auto" data-testid="quality">
    {#if fits.length === 0}
      <p class="p-4 text-center text-soft">{bench.problem ?? 'Nothing is held of it at this moment.'}</p>
    {:else}
      <DataGrid
        label="Quality by expiry"
        heads={HEADS}
        rows={fits}
        keyOf={(fit) => fit.expiry + fit.settlement}
        isDense
        isEdged
        area="flex-none"
      >
        {#snippet row(fit)}
          {@const what = { expiry: fit.expiry, settlement: fit.settlement }}

          <td class="cell text-left! {fit.expiryAside ? 'text-loss line-through' : ''}">{shortExpiry(fit)}</td>
          <td class="cell font-semibold">{figures.count(Math.round(fit.quality))}</td>
          {#each PARTS as { name } (name)}
            {@const part = fit.qualityParts[name]}
            <td class="cell {part < 0.5 ? 'text-loss' : 'text-soft'}">{figures.count(Math.round(100 * part))}</td>
          {/each}
          <td class="cell">{figures.count(fit.usable)}<span class="text-soft">/{figures.count(fit.contracts)}</span></td
          >
          <td class="text-right">
            {#if bench.moment.live}<span class="sr-only">of stored moments only</span>
            {:else if fit.expiryAside}
              <button
                class="btn btn-xs"
                title={expiryAsideWords(fit.expiryAside)}
                onclick={() => bench.exclusions.decide(what, fit.expiryAside === 'by-hand' ? null : 'use')}
                aria-label="Use {shortExpiry(fit)}">use</button
              >
            {:else}
              <button
                class="btn btn-ghost btn-xs"
                onclick={() => bench.exclusions.decide(what, 'aside')}
                aria-label="Set {shortExpiry(fit)} aside">aside</button
              >
            {/if}
          </td>
        {/snippet}
      </DataGrid>
      <AsideList fits={bench.snapshot.quoted} hasExpiries={false} />
      <DoubtfulList />
    {/if}
  </div>
</section>

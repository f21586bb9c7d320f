<script lang="ts">
  import { maxPain, isSameExpiry } from '@umwelt/core';
  import type { z } from 'zod';
  import { Chart, linePath } from '$lib/charts';
  import { painFigure } from './charts/pain';
  import { figures, shortExpiry } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { positions } from '$lib/ui';
  import type { schemas } from '$lib/api';
  import { Loaded, useTheme, useWorkbench } from '$lib/state';
  import { call } from '$lib/api/call';
  import type { OddsDesk } from './desk.svelte';
  import { painSentence } from './words';
  import { painWork } from './work';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const theme = useTheme();
  const SESSIONS = 40;

  type Open = z.infer<typeof schemas.OpenContractsResponse>;
  const open = new Loaded<Open>(() => {
    const { symbol } = bench.context;
    const { slice } = desk;
    const asof = bench.snapshot.snapshot?.asof;
    if (!symbol || !slice || !asof) return undefined;
    const query = { asof, expiry: slice.expiry, settlement: slice.settlement, sessions: SESSIONS };
    return call('GET /underlyings/{symbol}/open-contracts', { path: { symbol }, query });
  });

  const current = $derived.by(() => {
    const { value } = open;
    const isIt = value?.symbol === bench.context.symbol && desk.slice && isSameExpiry(value, desk.slice);
    return isIt ? value : null;
  });
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);
  const pain = $derived(current ? maxPain(current.strikes, multiplier) : null);
  const isEmpty = $derived(pain !== null && pain.curve.every(({ total }) => total === 0));
  const price = $derived(desk.now.price);
  const figure = $derived(
    current && pain && !isEmpty
      ? painFigure({ strikes: current.strikes, curve: pain.curve, strike: pain.strike, price, tokens: theme.tokens })
      : null,
  );
  const WIDTH = 150;
  const HEIGHT = 92;
  const path = $derived.by(() => {
    const rows = current?.path ?? [];
    const all = rows.flatMap(({ strike, price: at }) => [strike, at]).filter((value) => value !== null);
    const [low, high] = [Math.min(...all), Math.max(...all)];
    const y = (value: number | null) => (value === null ? NaN : (value - low) / (high - low || 1));
    const x = positions([...rows.keys()], WIDTH, 2);
    const of = (name: 'strike' | 'price') =>
      linePath(
        rows.map((row) => y(row[name])),
        x,
        2,
        HEIGHT - 2,
      );
    return rows.length > 1 ? { pain: of('strike'), price: of('price'), first: rows[0]!, last: rows.at(-1)! } : null;
  });
</script>

{#if figure && current && pain}
  <div class="flex min-h-0 flex-1 gap-2 px-2">
    <Chart {figure} name="max-pain" label="Value of open contracts by settlement price" />
    <aside class="flex w-[168px] flex-none flex-col gap-1 overflow-hidden pt-1 text-[11px] text-soft">
      <button
        class="cursor-pointer text-left hover:text-ink hover:underline"
        title="the working"
        onclick={() => (bench.dialogs.work = painWork(current.strikes, pain, multiplier))}
        >least at <b class="text-ink">{figures.strike(pain.strike)}</b>, the last {figures.counted(
          current.path.length,
          'session',
        )}</button
      >
      {#if path}
        <svg width={WIDTH} height={HEIGHT} role="img" aria-label="Where open contracts were worth least, and the price">
          <path d={path.price} fill="none" stroke="var(--ink)" stroke-width="1.2" />
          <path d={path.pain} fill="none" stroke="var(--implied)" stroke-width="1.8" />
        </svg>
        <span
          ><b class="text-implied">— least</b> from {figures.strike(path.first.strike)} to {figures.strike(
            path.last.strike,
          )}</span
        >
        <span><b class="text-ink">— price</b> now {figures.fixed(price, bench.market.decimals)}</span>
      {/if}
      <span
        >open <b class="text-gain">{figures.count(current.path.at(-1)?.callOpenInterest)}</b> calls,
        <b class="text-loss">{figures.count(current.path.at(-1)?.putOpenInterest)}</b> puts</span
      >
    </aside>
  </div>
  <div class="flex-none p-2 pt-1"><Sentence sentence={painSentence(pain.strike, price, current.path)} /></div>
{:else}
  <p class="m-auto text-soft">
    {open.problem ?? (isEmpty ? `No open contracts of ${shortExpiry(desk.slice!)} are known.` : 'Loading …')}
  </p>
{/if}

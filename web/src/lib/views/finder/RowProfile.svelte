<script lang="ts">
  import type { FoundRow } from '@umwelt/core';
  import type { Answer } from '$lib/api/call';
  import { betweenColors } from '$lib/charts/depth';
  import { roundTicks } from '$lib/charts/solid';
  import { figures } from '$lib/formats';
  import { useTheme } from '$lib/state';

  /** A row along the price: at its first expiry in ink, on days before in depth, the past as dots, odds as strips under the axis. */
  let {
    row,
    evaluated,
  }: { row: FoundRow; evaluated: Answer<'POST /underlyings/{symbol}/structures/evaluate'> | null } = $props();

  const theme = useTheme();
  const HEIGHT = 150;
  const [LEFT, BOTTOM, TOP] = [48, 26, 6];
  const DOTS = 14;
  let width = $state(0);

  const prices = $derived(row.sketch.prices);
  const profits = $derived(row.sketch.profits.map((profit) => profit * row.multiplier));
  const low = $derived(prices[0] ?? 0);
  const high = $derived(prices.at(-1) ?? 1);
  /** Of the answer that belongs to the row; the one before it is none of its. */
  const known = $derived(
    evaluated && evaluated.legs.length === row.legs.length && evaluated.legs.every((leg, i) => isSame(leg, i))
      ? evaluated
      : null,
  );
  function isSame(leg: { strike?: number; expiry?: string; side?: string; underlying?: true }, i: number): boolean {
    const own = row.legs[i]!;
    if ('underlying' in own) return leg.underlying === true;
    return leg.strike === own.strike && leg.expiry === own.expiry && leg.side === own.side;
  }
  const curves = $derived(
    (known?.curves ?? []).slice(0, -1).map(({ points }, i, all) => ({
      // Shallow is today, deep is near the expiry.
      color: depthAt(all.length > 1 ? i / (all.length - 1) : 0),
      points: points
        .filter(({ price }) => price >= low && price <= high)
        .map(({ price, pnl }) => ({ price, profit: (pnl ?? NaN) * row.multiplier })),
    })),
  );
  function depthAt(share: number): string {
    const { depths } = theme.tokens;
    return betweenColors(depths[2]!, depths[4]!, share);
  }
  const extent = $derived.by(() => {
    const all = [...profits, 0];
    const [least, most] = [Math.min(...all), Math.max(...all)];
    const room = 0.06 * (most - least || 1);
    return { least: least - room, most: most + room };
  });
  const x = (price: number) => LEFT + ((price - low) / (high - low || 1)) * (width - LEFT - 4);
  const y = (profit: number) =>
    TOP + ((extent.most - profit) / (extent.most - extent.least || 1)) * (HEIGHT - BOTTOM - DOTS - TOP);
  const lineOf = (points: readonly { price: number; profit: number }[]) =>
    points.length > 1
      ? `M${points.map(({ price, profit }) => `${x(price).toFixed(1)} ${y(profit).toFixed(1)}`).join('L')}`
      : '';
  const expiry = $derived(prices.map((price, i) => ({ price, profit: profits[i]! })));
  const line = $derived(lineOf(expiry));
  const evens = $derived(known?.breakEvens.filter((price) => price > low && price < high) ?? []);
  const ticks = $derived(roundTicks(extent.least, extent.most, 4));
  const decimals = $derived(row.price >= 1000 ? 0 : 2);
  const gains = $derived(
    (known?.odds[0]?.zones ?? []).map(({ from, to }) => {
      const inside = from === null ? (to ?? row.price) * 0.98 : to === null ? from * 1.02 : 0.5 * (from + to);
      return profitNear(inside) > 0;
    }),
  );
  function profitNear(price: number): number {
    const at = prices.findIndex((one) => one >= price);
    if (at < 0) return profits.at(-1) ?? 0;
    if (at === 0) return profits[0]!;
    const share = (price - prices[at - 1]!) / (prices[at]! - prices[at - 1]!);
    return profits[at - 1]! + share * (profits[at]! - profits[at - 1]!);
  }
  const clampX = (price: number) => Math.min(width - 4, Math.max(LEFT, x(price)));
  const id = $props.id();
</script>

<div class="mt-1" bind:clientWidth={width} data-testid="finder-profile">
  {#if prices.length > 1 && width > 0}
    <svg {width} height={HEIGHT} role="img" aria-label="Profit at the first expiry along the price">
      <defs>
        <pattern id="{id}-loss" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" x2="0" y1="0" y2="5" stroke="var(--loss)" stroke-width="1.2" opacity="0.5" />
        </pattern>
        <clipPath id="{id}-over"><rect x={LEFT} y="0" {width} height={y(0)} /></clipPath>
        <clipPath id="{id}-under"><rect x={LEFT} y={y(0)} {width} height={HEIGHT} /></clipPath>
      </defs>
      {#each ticks as tick (tick)}
        <line
          x1={LEFT}
          x2={width - 4}
          y1={y(tick)}
          y2={y(tick)}
          stroke="var(--line)"
          stroke-width={tick === 0 ? 1.4 : 0.6}
        />
        <text x={LEFT - 4} y={y(tick) + 4} text-anchor="end" class="axis">{figures.signed(tick, 0)}</text>
      {/each}
      <path
        d="{line}L{x(high)} {y(0)}L{x(low)} {y(0)}Z"
        fill="var(--gain)"
        opacity="0.16"
        clip-path="url(#{id}-over)"
      />
      <path d="{line}L{x(high)} {y(0)}L{x(low)} {y(0)}Z" fill="url(#{id}-loss)" clip-path="url(#{id}-under)" />
      <line
        x1={x(row.price)}
        x2={x(row.price)}
        y1={TOP}
        y2={HEIGHT - BOTTOM}
        stroke="var(--ink)"
        stroke-width="0.8"
        stroke-dasharray="3 2"
      />
      {#each curves as { color, points }, i (i)}
        <path d={lineOf(points)} fill="none" stroke={color} stroke-width="1.4" />
      {/each}
      <path d={line} fill="none" stroke="var(--ink)" stroke-width="1.8" />
      {#each row.sketch.dots as dot, i (i)}
        <circle
          cx={clampX(dot.price)}
          cy={HEIGHT - BOTTOM - 5}
          r="3"
          fill={dot.profit > 0 ? 'var(--gain)' : 'none'}
          stroke={dot.profit > 0 ? 'var(--gain)' : 'var(--loss)'}
          stroke-width="1.2"
        />
      {/each}
      {#each evens.length > 0 ? evens : [row.price] as price (price)}
        <text x={x(price)} y={HEIGHT - 12} text-anchor="middle" class="axis">{figures.fixed(price, decimals)}</text>
      {/each}
    </svg>
    {#each known?.odds.filter(({ basis }) => basis !== 'manual') ?? [] as { basis, zones } (basis)}
      <div class="relative mb-px h-[15px] text-[10.5px]" role="group" aria-label="Odds by {basis}">
        <span class="absolute left-0 w-[46px] truncate leading-[15px] text-soft" title={basis}>{basis}</span>
        {#each zones as { from, to, probability }, i (i)}
          {@const [left, right] = [from === null ? LEFT : clampX(from), to === null ? width - 4 : clampX(to)]}
          <span
            class="figures absolute h-[15px] overflow-hidden text-center text-[10.5px]! leading-[15px] {gains[i]
              ? 'bg-band font-semibold'
              : 'bg-page'}"
            style="left: {left}px; width: {Math.max(0, right - left - 1)}px"
            title="{figures.percent(probability ?? NaN, 2)} by {basis}"
            >{right - left > 30 ? figures.fixed(100 * (probability ?? NaN), 1) : ''}</span
          >
        {/each}
      </div>
    {/each}
    <p class="m-0 text-[11px] text-soft">
      <span class="font-semibold text-ink">— expiry</span> · days before in colours · <span class="text-gain">●</span>
      <span class="text-loss">○</span> 1 in 20 past moves
    </p>
  {/if}
</div>

<style>
  .axis {
    font-family: var(--font-mono);
    font-size: 10.5px;
    fill: var(--soft);
  }
</style>

<script lang="ts">
  import type { RowSketch } from '@umwelt/core';

  /** A payoff as a small picture: gains on a plain ground, losses on a hatched one, the past as twenty dots under it. */
  let { sketch, width = 74, height = 34 }: { sketch: RowSketch; width?: number; height?: number } = $props();

  const DOTS = 8;
  const drawn = $derived.by(() => {
    const { prices, profits, forward, dots } = sketch;
    if (prices.length < 2) return null;
    const [low, high] = [prices[0]!, prices.at(-1)!];
    const [most, least] = [Math.max(0, ...profits), Math.min(0, ...profits)];
    const floor = height - DOTS;
    const span = most - least || 1;
    const x = (price: number) => ((price - low) / (high - low)) * width;
    const y = (profit: number) => 1.5 + ((most - profit) / span) * (floor - 3);
    const at = (price: number, i: number) => `${x(price).toFixed(1)} ${y(profits[i]!).toFixed(1)}`;
    const line = `M${prices.map(at).join('L')}`;
    const zero = y(0);
    return {
      line,
      zero,
      area: `${line}L${width} ${zero}L0 ${zero}Z`,
      forward: x(forward),
      floor,
      dots: dots.map(({ price, profit }) => ({
        x: Math.min(width - 2, Math.max(2, x(price))),
        isGain: profit > 0,
      })),
    };
  });
  const id = $props.id();
</script>

{#if drawn}
  <svg {width} {height} viewBox="0 0 {width} {height}" aria-hidden="true" class="block overflow-visible">
    <defs>
      <pattern id="{id}-loss" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" x2="0" y1="0" y2="4" stroke="var(--loss)" stroke-width="1" opacity="0.6" />
      </pattern>
      <clipPath id="{id}-over"><rect x="0" y="0" {width} height={drawn.zero} /></clipPath>
      <clipPath id="{id}-under"
        ><rect x="0" y={drawn.zero} {width} height={Math.max(0, drawn.floor - drawn.zero)} /></clipPath
      >
    </defs>
    <path d={drawn.area} fill="var(--gain)" opacity="0.18" clip-path="url(#{id}-over)" />
    <path d={drawn.area} fill="url(#{id}-loss)" clip-path="url(#{id}-under)" />
    <line x1="0" x2={width} y1={drawn.zero} y2={drawn.zero} stroke="var(--line)" />
    <line x1={drawn.forward} x2={drawn.forward} y1="1" y2={drawn.floor} stroke="var(--soft)" stroke-dasharray="2 2" />
    <path d={drawn.line} fill="none" stroke="var(--ink)" stroke-width="1.4" />
    {#each drawn.dots as dot, i (i)}
      <circle
        cx={dot.x}
        cy={height - 3}
        r="1.7"
        fill={dot.isGain ? 'var(--gain)' : 'none'}
        stroke={dot.isGain ? 'var(--gain)' : 'var(--loss)'}
        stroke-width="0.9"
      />
    {/each}
  </svg>
{/if}

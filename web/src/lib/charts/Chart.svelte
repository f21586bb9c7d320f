<script lang="ts">
  import type { PlotlyHTMLElement } from 'plotly.js';
  import { untrack } from 'svelte';
  import { CONFIG, MONO, type Figure } from './figure';
  import Framed from './Framed.svelte';
  import { drawMoving, type Moving } from './moving';
  import { inTurn, loadPlotly, type Bundle } from './plotly';

  interface Props {
    figure: Figure;
    /** What is drawn in place of the figure's traces during playback; null otherwise. */
    moving?: Moving | null;
    /** What of Plotly it needs; it stays the same as long as the chart lives. */
    bundle?: Bundle;
    /** What its figures are called as a file. */
    name: string;
    /** What the chart shows, for those who do not see it. */
    label: string;
    /** Called with the customdata of a mark that the pointer is on, or null when it leaves. */
    onpoint?: (mark: unknown[] | null) => void;
    /** Called with the customdata of a mark that is chosen. */
    onchoose?: (mark: unknown[]) => void;
    /** Called with the ranges that are drawn around, where the figure is drawn on by selecting. */
    onbrush?: (x: readonly [number, number], y: readonly [number, number]) => void;
  }

  let { figure, moving = null, bundle = 'basic', name, label, onpoint, onchoose, onbrush }: Props = $props();

  type Plotly = typeof import('plotly.js');

  let plotly = $state.raw<Plotly | null>(null);
  let failed = $state(false);
  let asTable = $state(false);
  let element = $state<HTMLDivElement>();
  let isDrawn = false;
  let size = $state({ width: 0, height: 0 });

  loadPlotly(untrack(() => bundle)).then(
    (loaded) => (plotly = loaded),
    () => (failed = true),
  );

  $effect(() => {
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      const box = entry?.contentRect;
      if (box) size = { width: Math.floor(box.width), height: Math.floor(box.height) };
    });
    observer.observe(element);
    const target = element;
    return () => {
      observer.disconnect();
      plotly?.purge(target);
      isDrawn = false;
    };
  });

  function customdata(event: { points?: { customdata?: unknown }[] }): unknown[] | null {
    const mark = event.points?.find((point) => Array.isArray(point.customdata))?.customdata;
    return Array.isArray(mark) ? mark : null;
  }

  $effect(() => {
    const { data, layout } = figure;
    const { width, height } = size;
    if (!plotly || !element || width === 0 || height === 0) return;
    const [loaded, target] = [plotly, element];
    let isWanted = true;
    inTurn(() => {
      if (isWanted) draw(loaded, target, data, { ...layout, width, height });
    });
    return () => (isWanted = false);
  });

  let canvas = $state<HTMLCanvasElement>();
  const isMoving = $derived(moving !== null);

  $effect(() => {
    if (!canvas || !moving) return;
    const { width, height } = size;
    const context = canvas.getContext('2d');
    if (!context || width === 0) return;
    const ratio = devicePixelRatio;
    // A new size clears the canvas and costs an allocation.
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      canvas.width = Math.round(width * ratio);
      canvas.height = Math.round(height * ratio);
    }
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    drawMoving(context, moving, figure.layout, size, `11px ${MONO}`);
  });

  function draw(loaded: Plotly, target: HTMLDivElement, data: Figure['data'], layout: Figure['layout']): void {
    const isFirst = !isDrawn;
    isDrawn = true;
    // The configuration never changes; handing it in again costs a deep copy at every step.
    void loaded.react(target, data, layout, isFirst ? CONFIG : undefined).then((plot) => {
      target.dataset.drawn = String(Number(target.dataset.drawn ?? 0) + 1);
      if (isFirst) listen(plot);
    });
  }

  function listen(plot: PlotlyHTMLElement): void {
    plot.on('plotly_hover', (event) => {
      const mark = customdata(event as never);
      if (mark) onpoint?.(mark);
    });
    plot.on('plotly_unhover', () => onpoint?.(null));
    plot.on('plotly_click', (event) => {
      const mark = customdata(event as never);
      if (mark) onchoose?.(mark);
    });
    plot.on('plotly_selected', (event) => {
      const range = (event as { range?: { x?: number[]; y?: number[] } } | undefined)?.range;
      const [left, right] = range?.x ?? [];
      const [low, high] = range?.y ?? [];
      if (left === undefined || right === undefined || low === undefined || high === undefined) return;
      onbrush?.([Math.min(left, right), Math.max(left, right)], [Math.min(low, high), Math.max(low, high)]);
    });
  }
</script>

<Framed {name} {label} table={() => figure.table()} bind:asTable>
  <div
    bind:this={element}
    class="absolute inset-0"
    class:invisible={asTable}
    class:only-axes={isMoving}
    data-testid="plot"
  ></div>
  {#if isMoving && !asTable}
    <canvas bind:this={canvas} class="pointer-events-none absolute inset-0 size-full" data-testid="moving"></canvas>
  {/if}
  {#if failed}
    <p class="absolute inset-0 grid place-items-center text-loss">The charts could not be loaded. Reload the page.</p>
  {:else if !plotly}
    <p class="absolute inset-0 grid place-items-center text-soft">Loading the chart …</p>
  {/if}
</Framed>

<style>
  .only-axes :global(:is(.scatterlayer, .heatmaplayer, .shapelayer, .infolayer .annotation)) {
    visibility: hidden;
  }
</style>

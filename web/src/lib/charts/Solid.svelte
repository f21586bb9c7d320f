<script lang="ts">
  import { figures } from '$lib/formats';
  import { MONO } from './figure';
  import Framed from './Framed.svelte';
  import type { SolidInput } from '$lib/views/surface/charts/map';
  import { blankRaster, drawBody, drawBodyLines, drawBox, USUAL_EYE, viewOf, type Eye, type Raster } from './solid';

  interface Props {
    solid: SolidInput;
    /** Whether it is moving: then it is drawn with fewer pixels. */
    isMoving: boolean;
    name: string;
    label: string;
    /** Called with the contract of a point that is chosen. */
    onchoose?: (mark: unknown[]) => void;
  }

  let { solid, isMoving, name, label, onchoose }: Props = $props();

  let canvas = $state<HTMLCanvasElement>();
  let size = $state({ width: 0, height: 0 });
  let eye = $state.raw<Eye>(USUAL_EYE);
  let isDragged = $state(false);
  let asTable = $state(false);
  let raster: Raster | null = null;
  let perPixel = 1;
  let hovered = $state.raw<{ point: number; left: number; top: number } | null>(null);
  const HELP = 'arrows turn it, page up and down bring it nearer and farther, home as it was';

  $effect(() => {
    if (!canvas) return;
    const observer = new ResizeObserver(([entry]) => {
      const box = entry?.contentRect;
      if (box) size = { width: Math.floor(box.width), height: Math.floor(box.height) };
    });
    observer.observe(canvas);
    return () => observer.disconnect();
  });

  /** Offscreen canvas that holds the pixels before they are scaled, smoothed, onto the visible one. */
  const held = new OffscreenCanvas(1, 1);

  $effect(() => {
    const { width, height } = size;
    const context = canvas?.getContext('2d');
    if (!canvas || !context || width === 0 || height === 0) return;
    const ratio = devicePixelRatio;
    const [wide, high] = [Math.round(width * ratio), Math.round(height * ratio)];
    if (canvas.width !== wide || canvas.height !== high) {
      canvas.width = wide;
      canvas.height = high;
    }
    // When nothing moves there is time for smooth edges.
    perPixel = isMoving || isDragged ? ratio : 2 * ratio;
    const view = viewOf(eye, size);
    raster = blankRaster(Math.round(width * perPixel), Math.round(height * perPixel), raster);
    drawBody(solid.body, viewOf(eye, raster), raster);
    if (held.width !== raster.width || held.height !== raster.height) {
      held.width = raster.width;
      held.height = raster.height;
    }
    held.getContext('2d')!.putImageData(new ImageData(raster.pixels, raster.width, raster.height), 0, 0);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    const { line, soft } = solid.tokens;
    drawBox(context, view, eye, solid.axes, { line, text: soft, font: `11px ${MONO}` });
    context.drawImage(held, 0, 0, width, height);
    drawBodyLines(context, solid.lines, view, raster, perPixel);
    canvas.dataset.drawn = String(Number(canvas.dataset.drawn ?? 0) + 1);
  });

  const LIMIT = 89;
  function look(around: number, over: number, away: number): void {
    eye = {
      around: eye.around + around,
      over: Math.max(-LIMIT, Math.min(LIMIT, eye.over + over)),
      away: Math.max(1.2, Math.min(5, eye.away * away)),
    };
  }

  const TURN = 6;
  /** Keys turn the picture while it has the keyboard. */
  function turn(event: KeyboardEvent): void {
    const step = {
      ArrowLeft: [-TURN, 0, 1],
      ArrowRight: [TURN, 0, 1],
      ArrowUp: [0, TURN, 1],
      ArrowDown: [0, -TURN, 1],
      PageUp: [0, 0, 0.9],
      PageDown: [0, 0, 1.1],
    }[event.key] as [number, number, number] | undefined;
    if (event.key === 'Home') eye = USUAL_EYE;
    else if (step) look(...step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  const DEGREES_PER_PIXEL = 0.4;
  let begun: { x: number; y: number } | null = null;
  let last = { x: 0, y: 0 };

  function press(event: PointerEvent & { currentTarget: HTMLCanvasElement }): void {
    event.currentTarget.setPointerCapture(event.pointerId);
    begun = last = { x: event.clientX, y: event.clientY };
  }

  function move(event: PointerEvent & { currentTarget: HTMLCanvasElement }): void {
    const CLICK = 4;
    if (begun) {
      isDragged ||= Math.hypot(event.clientX - begun.x, event.clientY - begun.y) > CLICK;
      if (!isDragged) return;
      look(-DEGREES_PER_PIXEL * (event.clientX - last.x), DEGREES_PER_PIXEL * (event.clientY - last.y), 1);
      last = { x: event.clientX, y: event.clientY };
      hovered = null;
      return;
    }
    const box = event.currentTarget.getBoundingClientRect();
    const [left, top] = [event.clientX - box.left, event.clientY - box.top];
    const point = pointAt(left, top);
    hovered = point < 0 ? null : { point, left, top };
  }

  function pointAt(left: number, top: number): number {
    if (!raster) return -1;
    const [column, row] = [Math.round(left * perPixel), Math.round(top * perPixel)];
    return column >= 0 && column < raster.width ? (raster.points[row * raster.width + column] ?? -1) : -1;
  }

  function release(event: PointerEvent & { currentTarget: HTMLCanvasElement }): void {
    if (begun && !isDragged) {
      const box = event.currentTarget.getBoundingClientRect();
      const point = pointAt(event.clientX - box.left, event.clientY - box.top);
      if (point >= 0) onchoose?.(solid.contractAt(point));
    }
    begun = null;
    isDragged = false;
  }

  /** Added by hand: a wheel listener set as an attribute is passive and cannot prevent scrolling. */
  $effect(() => {
    const target = canvas;
    if (!target) return;
    const zoom = (event: WheelEvent) => {
      event.preventDefault();
      look(0, 0, event.deltaY > 0 ? 1.06 : 1 / 1.06);
    };
    target.addEventListener('wheel', zoom, { passive: false });
    return () => target.removeEventListener('wheel', zoom);
  });
</script>

<Framed {name} {label} table={() => solid.table()} bind:asTable>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="absolute inset-0 rounded focus-visible:outline-2 focus-visible:outline-focus"
    class:invisible={asTable}
    role="application"
    tabindex="0"
    aria-label="Picture in three dimensions: {HELP}"
    title={hovered || isDragged ? undefined : HELP}
    data-around={figures.fixed(eye.around, 0)}
    data-away={figures.fixed(eye.away, 2)}
    onkeydown={turn}
  >
    <canvas
      bind:this={canvas}
      class="size-full touch-none {isDragged ? 'cursor-grabbing' : 'cursor-grab'}"
      data-testid="solid"
      onpointerdown={press}
      onpointermove={move}
      onpointerup={release}
      onpointercancel={release}
      onpointerleave={() => (hovered = null)}
    ></canvas>
    {#if hovered && hovered.point < solid.body.columns * solid.body.rows}
      {@const [place, value] = solid.textAt(hovered.point).split('<br>')}
      <p
        class="figures pointer-events-none absolute z-10 m-0 rounded border border-soft bg-panel px-1.5 py-0.5 text-[11px]! whitespace-nowrap"
        style="left: {Math.min(hovered.left + 12, Math.max(0, size.width - 190))}px; top: {Math.max(
          0,
          hovered.top - 44,
        )}px"
      >
        {place}<br />{value}
      </p>
    {/if}
  </div>
</Framed>

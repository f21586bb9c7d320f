import type { Figure } from './figure';

/** A line in the units of the axes; NaN breaks it. */
export interface MovingLine {
  x: ArrayLike<number>;
  y: ArrayLike<number>;
  color: string;
  /** 0 where there are dots alone. */
  width: number;
  isDashed?: boolean;
  /** Radius of a dot at every point, in pixels, and its colours where they differ. */
  dots?: number;
  dotColors?: readonly string[];
  /** Whether it stands on the second pair of axes of a chart that has two pictures side by side. */
  isBeside?: boolean;
}

/** An area between two lines over the same places. */
export interface MovingArea {
  x: ArrayLike<number>;
  low: ArrayLike<number>;
  high: ArrayLike<number>;
  color: string;
  opacity: number;
}

/** A picture of colours between two places on each axis, evenly spaced as they stand there. */
export interface MovingImage {
  x: readonly [from: number, to: number];
  y: readonly [from: number, to: number];
  columns: number;
  rows: number;
  /** Red, green, blue and opacity by row and column, the first row at the first y. */
  pixels: Uint8ClampedArray<ArrayBuffer>;
}

/**
 * What moves in a chart while its axes hold still. It is drawn over them, since laying out a whole chart for every frame
 * takes longer than a frame.
 */
export interface Moving {
  image?: MovingImage;
  areas?: readonly MovingArea[];
  lines: readonly MovingLine[];
  /** Lines from top to bottom. */
  uprights?: readonly { x: number; color: string; text?: string }[];
}

/** Pixels of a value on an axis. */
type Scale = (value: number) => number;

/** Where an axis is drawn, and what it says. */
type AnyAxis = Partial<{ range: unknown; type: unknown; domain: unknown }> | undefined;

function scaleOf(axis: AnyAxis, from: number, to: number): Scale {
  const [low, high] = (axis?.range ?? [0, 1]) as [number, number];
  const perUnit = (to - from) / (high - low);
  return axis?.type === 'log'
    ? (value) => from + (Math.log10(value) - low) * perUnit
    : (value) => from + (value - low) * perUnit;
}

const DASH = [6, 4];

/** Holds the colours before they are stretched over the axes. */
let small: OffscreenCanvas | null = null;

function drawImage(
  context: CanvasRenderingContext2D,
  { x, y, columns, rows, pixels }: MovingImage,
  left: Scale,
  down: Scale,
): void {
  if (small?.width !== columns || small.height !== rows) small = new OffscreenCanvas(columns, rows);
  small.getContext('2d')?.putImageData(new ImageData(pixels, columns, rows), 0, 0);
  context.save();
  // The first row may stand at the bottom, the first column at the right: the picture is turned as the axes are.
  context.setTransform(
    new DOMMatrix()
      .multiply(context.getTransform())
      .translate(left(x[0]), down(y[0]))
      .scale((left(x[1]) - left(x[0])) / columns, (down(y[1]) - down(y[0])) / rows),
  );
  context.drawImage(small, 0, 0);
  context.restore();
}

function trace(
  context: CanvasRenderingContext2D,
  { x, y }: Pick<MovingLine, 'x' | 'y'>,
  left: Scale,
  top: Scale,
): void {
  let isDown = false;
  for (let i = 0; i < x.length; i++) {
    const value = y[i]!;
    if (!Number.isFinite(value)) isDown = false;
    else if (isDown) context.lineTo(left(x[i]!), top(value));
    else {
      context.moveTo(left(x[i]!), top(value));
      isDown = true;
    }
  }
}

/** A picture of the chart: its box in pixels, and where values stand in it. */
interface Pane {
  from: { x: number; y: number };
  to: { x: number; y: number };
  left: Scale;
  down: Scale;
}

function paneOf(
  { margin, ...layout }: Figure['layout'],
  { width, height }: { width: number; height: number },
  axes: { x: AnyAxis; y: AnyAxis } = { x: layout.xaxis, y: layout.yaxis },
): Pane {
  const { l = 0, r = 0, t = 0, b = 0 } = margin ?? {};
  const [begin, end] = (axes.x?.domain ?? [0, 1]) as [number, number];
  const [bottom, top] = (axes.y?.domain ?? [0, 1]) as [number, number];
  const [across, inner] = [width - r - l, height - t - b];
  const from = { x: l + begin * across, y: t + (1 - top) * inner };
  const to = { x: l + end * across, y: t + (1 - bottom) * inner };
  return { from, to, left: scaleOf(axes.x, from.x, to.x), down: scaleOf(axes.y, to.y, from.y) };
}

/** Clips what is drawn next to one plot area. */
function clip(context: CanvasRenderingContext2D, { from, to }: Pane): void {
  context.save();
  context.beginPath();
  context.rect(from.x, from.y, to.x - from.x, to.y - from.y);
  context.clip();
}

function drawLine(context: CanvasRenderingContext2D, line: MovingLine, { left, down }: Pane): void {
  context.beginPath();
  trace(context, line, left, down);
  context.strokeStyle = line.color;
  context.lineWidth = line.width;
  context.setLineDash(line.isDashed ? DASH : []);
  // A canvas takes a width of nothing for the one before.
  if (line.width > 0) context.stroke();
  if (line.dots === undefined) return;
  for (let i = 0; i < line.x.length; i++) {
    context.beginPath();
    context.arc(left(line.x[i]!), down(line.y[i]!), line.dots, 0, 2 * Math.PI);
    context.fillStyle = line.dotColors?.[i] ?? line.color;
    context.fill();
  }
}

/** Draws what moves on a canvas of the size of the chart. */
export function drawMoving(
  context: CanvasRenderingContext2D,
  { image, areas = [], lines, uprights = [] }: Moving,
  layout: Figure['layout'],
  size: { width: number; height: number },
  font: string,
): void {
  const pane = paneOf(layout, size);
  const { left, down, from, to } = pane;
  context.clearRect(0, 0, size.width, size.height);
  clip(context, pane);
  if (image) drawImage(context, image, left, down);
  for (const { x, low, high, color, opacity } of areas) {
    context.beginPath();
    for (let i = 0; i < x.length; i++) context.lineTo(left(x[i]!), down(high[i]!));
    for (let i = x.length - 1; i >= 0; i--) context.lineTo(left(x[i]!), down(low[i]!));
    context.globalAlpha = opacity;
    context.fillStyle = color;
    context.fill();
  }
  context.globalAlpha = 1;
  for (const line of lines) if (!line.isBeside) drawLine(context, line, pane);
  context.setLineDash([2, 3]);
  context.lineWidth = 1.2;
  for (const { x, color } of uprights) {
    context.beginPath();
    context.moveTo(left(x), from.y);
    context.lineTo(left(x), to.y);
    context.strokeStyle = color;
    context.stroke();
  }
  context.restore();
  const others = lines.filter(({ isBeside }) => isBeside);
  if (others.length > 0) {
    const beside = paneOf(layout, size, { x: layout.xaxis2, y: layout.yaxis2 });
    clip(context, beside);
    for (const line of others) drawLine(context, line, beside);
    context.restore();
  }
  context.font = font;
  context.textBaseline = 'bottom';
  for (const { x, color, text } of uprights) {
    if (!text) continue;
    context.fillStyle = color;
    context.fillText(text, left(x) + 2, from.y - 3);
  }
}

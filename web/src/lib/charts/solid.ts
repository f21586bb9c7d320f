/**
 * A body over two axes, in perspective. It is drawn by hand into pixels with their depths: without a graphics card a
 * general drawing of three dimensions takes a quarter of a second for each turn of it.
 */

/** The camera of a 3D plot: azimuth and elevation in degrees, and distance. */
export interface Eye {
  around: number;
  over: number;
  away: number;
}

export const USUAL_EYE: Eye = { around: -60, over: 25, away: 2.25 };

/** Half the size of the box that a body fills. */
export const HALF = { x: 0.6, y: 0.55, z: 0.375 } as const;

const FIELD = Math.PI / 4;
/** The box is looked at a little under its middle, which leaves room for what is written below. */
const LOW = -0.04;

interface Point {
  x: number;
  y: number;
  z: number;
}

/** Position of the camera. */
export function placeOf({ around, over, away }: Eye): Point {
  const [a, o] = [(Math.PI / 180) * around, (Math.PI / 180) * over];
  return { x: away * Math.cos(o) * Math.cos(a), y: away * Math.cos(o) * Math.sin(a), z: away * Math.sin(o) };
}

/** A point of the box on the screen, in pixels, and its nearness: one over its distance. */
export interface Seen {
  left: number;
  top: number;
  near: number;
}

export type View = (x: number, y: number, z: number) => Seen;

/** The projection of the box for a camera and a picture size. */
export function viewOf(eye: Eye, { width, height }: { width: number; height: number }): View {
  const place = placeOf(eye);
  const [ax, ay, az] = [-place.x, -place.y, LOW - place.z];
  const far = Math.hypot(ax, ay, az);
  const ahead = { x: ax / far, y: ay / far, z: az / far };
  const flat = Math.hypot(ahead.x, ahead.y);
  const right = { x: ahead.y / flat, y: -ahead.x / flat };
  const above = { x: right.y * ahead.z, y: -right.x * ahead.z, z: right.x * ahead.y - right.y * ahead.x };
  const scale = Math.min(height, 0.85 * width) / 2 / Math.tan(FIELD / 2);
  return (x, y, z) => {
    const [dx, dy, dz] = [x - place.x, y - place.y, z - place.z];
    const near = 1 / (dx * ahead.x + dy * ahead.y + dz * ahead.z);
    return {
      left: width / 2 + scale * near * (dx * right.x + dy * right.y),
      top: height / 2 - scale * near * (dx * above.x + dy * above.y + dz * above.z),
      near,
    };
  };
}

/** A body: points of the box by row and column, NaN where there is nothing, with a colour each. */
export interface Body {
  columns: number;
  rows: number;
  x: Float64Array;
  y: Float64Array;
  z: Float64Array;
  /** Red, green and blue of every point. */
  colors: Uint8ClampedArray;
}

/** Pixels of a picture, how near each is, and which point of the body it shows (−1: none). */
export interface Raster {
  width: number;
  height: number;
  pixels: Uint8ClampedArray<ArrayBuffer>;
  near: Float32Array;
  points: Int32Array;
}

/** A raster without anything on it; an old one of the same size is wiped and used again. */
export function blankRaster(width: number, height: number, old: Raster | null = null): Raster {
  if (old?.width === width && old.height === height) {
    old.pixels.fill(0);
    old.near.fill(0);
    old.points.fill(-1);
    return old;
  }
  const count = width * height;
  return {
    width,
    height,
    pixels: new Uint8ClampedArray(4 * count),
    near: new Float32Array(count),
    points: new Int32Array(count).fill(-1),
  };
}

/** Where light comes from; what faces away from it is a quarter darker. */
const LIGHT = { x: -0.35, y: -0.5, z: 0.79 };
const DARK = 0.76;

/** Light on every point, from the slopes around it. */
function lightOf({ columns, rows, x, y, z }: Body): Float64Array {
  return Float64Array.from(z, (_, at) => {
    const [i, j] = [Math.floor(at / columns), at % columns];
    const step = (from: number, to: number) => [x[to]! - x[from]!, y[to]! - y[from]!, z[to]! - z[from]!] as const;
    const across = step(at - (j > 0 ? 1 : 0), at + (j < columns - 1 ? 1 : 0));
    const away = step(at - (i > 0 ? columns : 0), at + (i < rows - 1 ? columns : 0));
    const normal = {
      x: across[1] * away[2] - across[2] * away[1],
      y: across[2] * away[0] - across[0] * away[2],
      z: across[0] * away[1] - across[1] * away[0],
    };
    const length = Math.hypot(normal.x, normal.y, normal.z);
    const facing = Math.abs(normal.x * LIGHT.x + normal.y * LIGHT.y + normal.z * LIGHT.z) / length;
    return DARK + (1 - DARK) * (Number.isFinite(facing) ? facing : 1);
  });
}

/** Draws a body, what is nearer before what is farther. */
export function drawBody(body: Body, view: View, raster: Raster): void {
  const { columns, rows, x, y, z, colors } = body;
  const light = lightOf(body);
  const count = columns * rows;
  const left = new Float64Array(count);
  const top = new Float64Array(count);
  const near = new Float64Array(count);
  const red = new Float64Array(count);
  const green = new Float64Array(count);
  const blue = new Float64Array(count);
  for (let at = 0; at < count; at++) {
    const seen = view(x[at]!, y[at]!, z[at]!);
    left[at] = seen.left;
    top[at] = seen.top;
    near[at] = seen.near;
    red[at] = colors[3 * at]! * light[at]!;
    green[at] = colors[3 * at + 1]! * light[at]!;
    blue[at] = colors[3 * at + 2]! * light[at]!;
  }
  const corners = { left, top, near, red, green, blue };
  const words = new Uint32Array(raster.pixels.buffer);
  for (let i = 0; i + 1 < rows; i++) {
    for (let j = 0; j + 1 < columns; j++) {
      const at = i * columns + j;
      fillTriangle(at, at + 1, at + columns, corners, raster, words);
      fillTriangle(at + 1, at + columns + 1, at + columns, corners, raster, words);
    }
  }
}

interface Corners {
  left: Float64Array;
  top: Float64Array;
  near: Float64Array;
  red: Float64Array;
  green: Float64Array;
  blue: Float64Array;
}

const OPAQUE = 255 << 24;

/**
 * Fills a triangle line by line, colours and nearness linear between its corners: what all of them are at the first pixel
 * of a line, and how much more at each that follows.
 *
 * @param words the raster's pixels as numbers of red, green, blue and opacity, the red last
 */
function fillTriangle(
  a: number,
  b: number,
  c: number,
  { left, top, near, red, green, blue }: Corners,
  raster: Raster,
  words: Uint32Array,
): void {
  const ax = left[a]!;
  const ay = top[a]!;
  const bx = left[b]! - ax;
  const by = top[b]! - ay;
  const cx = left[c]! - ax;
  const cy = top[c]! - ay;
  const area = bx * cy - cx * by;
  // NaN anywhere makes the area NaN; what is seen edge on has none.
  if (!(Math.abs(area) > 1e-9)) return;
  const { width, height, near: held, points } = raster;
  const firstRow = Math.max(0, Math.ceil(ay + Math.min(0, by, cy)));
  const lastRow = Math.min(height - 1, Math.floor(ay + Math.max(0, by, cy)));
  const first = Math.max(0, Math.ceil(ax + Math.min(0, bx, cx)));
  const last = Math.min(width - 1, Math.floor(ax + Math.max(0, bx, cx)));
  const bAcross = cy / area;
  const cAcross = -by / area;
  const bDown = -cx / area;
  const cDown = bx / area;
  const nearA = near[a]!;
  const nearB = near[b]! - nearA;
  const nearC = near[c]! - nearA;
  const EDGE = -1e-9;
  for (let row = firstRow; row <= lastRow; row++) {
    const down = row - ay;
    let ofB = (first - ax) * bAcross + down * bDown;
    let ofC = (first - ax) * cAcross + down * cDown;
    let pixel = row * width + first;
    for (let column = first; column <= last; column++, pixel++, ofB += bAcross, ofC += cAcross) {
      const ofA = 1 - ofB - ofC;
      if (ofA < EDGE || ofB < EDGE || ofC < EDGE) continue;
      const nearness = nearA + ofB * nearB + ofC * nearC;
      if (!(nearness > held[pixel]!)) continue;
      held[pixel] = nearness;
      points[pixel] = ofA >= ofB && ofA >= ofC ? a : ofB >= ofC ? b : c;
      words[pixel] =
        OPAQUE |
        ((ofA * blue[a]! + ofB * blue[b]! + ofC * blue[c]!) << 16) |
        ((ofA * green[a]! + ofB * green[b]! + ofC * green[c]!) << 8) |
        (ofA * red[a]! + ofB * red[b]! + ofC * red[c]!);
    }
  }
}

/** Round numbers between two, some of them. */
export function roundTicks(from: number, to: number, count: number): number[] {
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  const rough = (high - low) / count;
  if (!(rough > 0)) return [low];
  const unit = 10 ** Math.floor(Math.log10(rough));
  const step = unit * ([1, 2, 2.5, 5].find((part) => part * unit >= rough) ?? 10);
  const ticks: number[] = [];
  // Whole multiples of the step, so that zero is exactly zero.
  for (let n = Math.ceil(low / step - 1e-9); n * step <= high + 1e-9 * step; n++) ticks.push(n * step);
  return ticks;
}

/** Decimals with which ticks differ. */
export function tickDecimals(ticks: readonly number[]): number {
  const step = Math.abs((ticks[1] ?? NaN) - (ticks[0] ?? NaN));
  if (!(step > 0)) return 2;
  let decimals = 0;
  while (decimals < 9 && Math.abs(step * 10 ** decimals - Math.round(step * 10 ** decimals)) > 1e-6) decimals++;
  return decimals;
}

/** An axis of the box: what stands where along it, from −1 to 1. */
export interface BoxAxis {
  title: string;
  ticks: readonly { at: number; text: string }[];
}

export interface BoxAxes {
  x: BoxAxis;
  y: BoxAxis;
  z: BoxAxis;
}

/** A line across a body that is drawn where nothing is before it: an expiry. */
export interface BodyLine {
  points: readonly Point[];
  color: string;
  width: number;
}

interface Ink {
  line: string;
  text: string;
  font: string;
}

/** Draws the floor and the walls that lie behind the body, with their ticks. */
export function drawBox(context: CanvasRenderingContext2D, view: View, eye: Eye, axes: BoxAxes, ink: Ink): void {
  const place = placeOf(eye);
  // Walls are drawn on the sides away from the camera, and so is the floor.
  const wall = { x: place.x > 0 ? -HALF.x : HALF.x, y: place.y > 0 ? -HALF.y : HALF.y };
  const floor = eye.over >= 0 ? -HALF.z : HALF.z;
  context.strokeStyle = ink.line;
  context.lineWidth = 1;
  context.setLineDash([]);
  const stroke = (...points: [number, number, number][]) => {
    context.beginPath();
    for (const [x, y, z] of points) {
      const { left, top } = view(x, y, z);
      context.lineTo(left, top);
    }
    context.stroke();
  };
  for (const { at } of axes.x.ticks) {
    const x = HALF.x * at;
    stroke([x, -wall.y, floor], [x, wall.y, floor], [x, wall.y, -floor]);
  }
  for (const { at } of axes.y.ticks) {
    const y = HALF.y * at;
    stroke([-wall.x, y, floor], [wall.x, y, floor], [wall.x, y, -floor]);
  }
  for (const { at } of axes.z.ticks) {
    const z = HALF.z * at;
    stroke([-wall.x, wall.y, z], [wall.x, wall.y, z], [wall.x, -wall.y, z]);
  }
  stroke(
    [-wall.x, -wall.y, floor],
    [wall.x, -wall.y, floor],
    [wall.x, wall.y, floor],
    [-wall.x, wall.y, floor],
    [-wall.x, -wall.y, floor],
  );

  const middle = view(0, 0, floor);
  context.fillStyle = ink.text;
  context.font = ink.font;
  context.textBaseline = 'middle';
  /** Writes outside of the box, beside a point of its edge. */
  const write = (text: string, x: number, y: number, z: number, away: number, from = middle) => {
    const { left, top } = view(x, y, z);
    const [dx, dy] = [left - from.left, top - from.top];
    const length = Math.hypot(dx, dy) || 1;
    context.textAlign = dx / length > 0.4 ? 'left' : dx / length < -0.4 ? 'right' : 'center';
    context.fillText(text, left + (away * dx) / length, top + (away * dy) / length);
  };
  const TICK = 12;
  const TITLE = 40;
  for (const { at, text } of axes.x.ticks) write(text, HALF.x * at, -wall.y, floor, TICK);
  write(axes.x.title, 0, -wall.y, floor, TITLE);
  for (const { at, text } of axes.y.ticks) write(text, -wall.x, HALF.y * at, floor, TICK);
  write(axes.y.title, -wall.x, 0, floor, TITLE);
  // Heights stand at the edge of a wall that is farther out to the left.
  const edges = [
    { x: wall.x, y: -wall.y },
    { x: -wall.x, y: wall.y },
  ] as const;
  const edge = edges.toSorted((a, b) => view(a.x, a.y, 0).left - view(b.x, b.y, 0).left)[0]!;
  for (const { at, text } of axes.z.ticks) {
    const { left, top } = view(edge.x, edge.y, HALF.z * at);
    context.textAlign = 'right';
    context.fillText(text, left - 6, top);
  }
  const head = view(edge.x, edge.y, -floor);
  context.textAlign = 'center';
  context.fillText(axes.z.title, head.left, head.top - 20);
}

/** Draws lines across a body where they are not hidden behind it; the raster may have more pixels than the picture. */
export function drawBodyLines(
  context: CanvasRenderingContext2D,
  lines: readonly BodyLine[],
  view: View,
  { width, height, near }: Raster,
  perPixel: number,
): void {
  const CLOSE = 1.004;
  context.setLineDash([]);
  for (const { points, color, width: thick } of lines) {
    context.strokeStyle = color;
    context.lineWidth = thick;
    context.beginPath();
    let isDown = false;
    for (const { x, y, z } of points) {
      const seen = view(x, y, z);
      const [column, row] = [Math.round(seen.left * perPixel), Math.round(seen.top * perPixel)];
      const isIn = column >= 0 && row >= 0 && column < width && row < height;
      const isSeen = Number.isFinite(seen.near) && isIn && seen.near * CLOSE >= near[row * width + column]!;
      if (isSeen && isDown) context.lineTo(seen.left, seen.top);
      else if (isSeen) context.moveTo(seen.left, seen.top);
      isDown = isSeen;
    }
    context.stroke();
  }
}

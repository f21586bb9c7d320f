import { shareUnder } from './law';

/** How paths are made of what has been: whole past stretches of the length that is left, or such of many short blocks. */
export const SAMPLINGS = ['stretches', 'blocks'] as const;
export type Sampling = (typeof SAMPLINGS)[number];

/**
 * Where past moves lead: to the forward on average (`forward`), nowhere, their mean logarithm taken out (`none`), or where
 * they led (`kept`).
 */
export const DRIFTS = ['forward', 'none', 'kept'] as const;
export type Drift = (typeof DRIFTS)[number];

/** Bars that moves are drawn from, in order of time, without the steps of dividends and splits. */
export interface PastBars {
  readonly close: Float64Array;
  readonly high: Float64Array;
  readonly low: Float64Array;
}

export interface SampleTerms {
  /** How long each path is, in sessions. */
  readonly sessions: number;
  /** ln(S/F): where paths begin, against the forward that their ends are held against. */
  readonly start: number;
  readonly sampling: Sampling;
  readonly drift: Drift;
  /** How many paths are drawn of blocks. */
  readonly paths?: number;
  /** The same seed draws the same paths. */
  readonly seed?: number;
}

/** Paths of past moves against the forward, each column ascending: ends, and how far they went on the way. */
export interface Sample {
  readonly ends: Float64Array;
  readonly highs: Float64Array;
  readonly lows: Float64Array;
  /** How far each path went up and down, path by path. */
  readonly reach: { readonly highs: Float64Array; readonly lows: Float64Array };
  /** How many paths do not overlap: of blocks, how many sessions they are drawn from over the length of a path. */
  readonly independent: number;
}

export const USUAL_PATHS = 100_000;
/** Sessions in a block: long enough to keep the clustering of vol over a week. */
export const BLOCK = 5;
/** With fewer stretches nothing is said. */
export const FEWEST_STRETCHES = 20;
const USUAL_SEED = 20_310_313;

/** What the sessions from each one on did: the sum of their moves, and the highest and lowest point on the way. */
interface Blocks {
  sum: Float64Array;
  high: Float64Array;
  low: Float64Array;
}

/** Moves of single sessions: from close to close, and from the close before to high and low. */
interface Moves {
  close: Float64Array;
  high: Float64Array;
  low: Float64Array;
}

function movesOf({ close, high, low }: PastBars): Moves {
  const count = Math.max(0, close.length - 1);
  const from = (to: Float64Array) => Float64Array.from({ length: count }, (_, i) => Math.log(to[i + 1]! / close[i]!));
  return { close: from(close), high: from(high), low: from(low) };
}

/** Stretches of some sessions from every session on; the last ones go on with the first where they are circular. */
function blocksOf(moves: Moves, length: number, isCircular: boolean): Blocks {
  const count = moves.close.length;
  const starts = isCircular ? count : Math.max(0, count - length + 1);
  const sum = new Float64Array(starts);
  const high = new Float64Array(starts);
  const low = new Float64Array(starts);
  for (let from = 0; from < starts; from++) {
    let at = 0;
    let highest = 0;
    let lowest = 0;
    for (let i = 0; i < length; i++) {
      const j = (from + i) % count;
      highest = Math.max(highest, at + moves.high[j]!);
      lowest = Math.min(lowest, at + moves.low[j]!);
      at += moves.close[j]!;
    }
    sum[from] = at;
    high[from] = highest;
    low[from] = lowest;
  }
  return { sum, high, low };
}

/**
 * Paths of so many sessions, drawn from past moves: every past stretch of that length, once each; or many paths of blocks of
 * five sessions that are drawn with replacement from a circle of all sessions (D. Politis and J. Romano, "A circular
 * block-resampling procedure for stationary data", 1992). Highs and lows within the sessions count.
 *
 * @returns null where the path has no session, or where fewer than twenty stretches are held
 */
export function drawPaths(bars: PastBars, terms: SampleTerms): Sample | null {
  const { sessions, start, sampling, drift, paths = USUAL_PATHS, seed = USUAL_SEED } = terms;
  const moves = movesOf(bars);
  const held = moves.close.length - sessions + 1;
  if (!(sessions >= 1) || held < FEWEST_STRETCHES) return null;
  if (![moves.close, moves.high, moves.low].every((column) => column.every(Number.isFinite))) return null;
  const isWhole = sampling === 'stretches';
  // What is added to each session moves the end of every path by the same, and what it passes on the way by its share.
  const lift =
    (isWhole ? liftOf(blocksOf(moves, sessions, false).sum, drift, start) : expectedLift(moves, terms)) / sessions;
  const lifted = {
    close: moves.close.map((move) => move + lift),
    high: moves.high.map((move) => move + lift),
    low: moves.low.map((move) => move + lift),
  };
  const found = isWhole ? blocksOf(lifted, sessions, false) : drawBlocks(lifted, sessions, paths, seed);
  // Paths that are drawn meet their mean but for chance; what is left is put right at all of them.
  const rest = start + liftOf(found.sum, drift, start);
  const [ends, highs, lows] = [found.sum, found.high, found.low];
  for (const column of [ends, highs, lows]) for (let i = 0; i < column.length; i++) column[i]! += rest;
  return {
    reach: { highs: highs.slice(), lows: lows.slice() },
    ends: ends.sort(),
    highs: highs.sort(),
    lows: lows.sort(),
    independent: (moves.close.length / sessions) | 0,
  };
}

/** By how much all ends are moved so that they lead where they are meant to. */
function liftOf(ends: Float64Array, drift: Drift, start: number): number {
  if (drift === 'kept') return 0;
  let sum = 0;
  if (drift === 'none') {
    for (const end of ends) sum += end;
    return -sum / ends.length;
  }
  for (const end of ends) sum += Math.exp(end);
  return -Math.log(sum / ends.length) - start;
}

/** The same as it is expected of paths of blocks, before any are drawn: blocks are independent of each other. */
function expectedLift(moves: Moves, { sessions, start, drift }: SampleTerms): number {
  const whole = Math.floor(sessions / BLOCK);
  const rest = sessions % BLOCK;
  const of = (length: number) => liftOf(blocksOf(moves, length, true).sum, drift, 0);
  const lift = whole * of(BLOCK) + (rest > 0 ? of(rest) : 0);
  return drift === 'forward' ? lift - start : lift;
}

/** What paths of a past are made of. */
export type WalkTerms = Pick<SampleTerms, 'sampling' | 'drift' | 'paths' | 'seed'>;

/**
 * Where the paths of `drawPaths` are after any number of sessions. Those of blocks walk on from one length to the next: a part
 * of a block is what shorter paths have at their end, so that every length has the law that it would be drawn with.
 *
 * @returns ends by sessions and ln(S/F), in no order; null where `drawPaths` has none. Ascending lengths are the quick ones
 */
export function walkPaths(
  bars: PastBars,
  { sampling, drift, paths = USUAL_PATHS, seed = USUAL_SEED }: WalkTerms,
): (sessions: number, start: number) => Float64Array | null {
  const moves = movesOf(bars);
  const { close } = moves;
  const isKnown = close.every(Number.isFinite);
  let walk: BlockWalk | null = null;
  return (sessions, start) => {
    if (!isKnown || !(sessions >= 1) || close.length - sessions + 1 < FEWEST_STRETCHES) return null;
    let ends: Float64Array;
    if (sampling === 'stretches') ends = blocksOf(moves, sessions, false).sum;
    else {
      if (!walk || walk.sessions > sessions) walk = new BlockWalk(close, paths, seed);
      ends = walk.to(sessions);
    }
    const lift = start + liftOf(ends, drift, start);
    return ends.map((end) => end + lift);
  };
}

/** Paths of blocks of five sessions, a session at a time. */
class BlockWalk {
  sessions = 0;
  private readonly ends: Float64Array;
  private readonly from: Int32Array;
  private readonly random: () => number;

  constructor(
    private readonly close: Float64Array,
    paths: number,
    seed: number,
  ) {
    this.ends = new Float64Array(paths);
    this.from = new Int32Array(paths);
    this.random = makeRandom(seed);
  }

  to(sessions: number): Float64Array {
    const { close, ends, from, random } = this;
    const count = close.length;
    for (; this.sessions < sessions; this.sessions++) {
      const offset = this.sessions % BLOCK;
      if (offset === 0) for (let path = 0; path < from.length; path++) from[path] = (random() * count) | 0;
      for (let path = 0; path < ends.length; path++) {
        const at = from[path]! + offset;
        ends[path]! += close[at < count ? at : at - count]!;
      }
    }
    return ends;
  }
}

/** Numbers over 0 and under 1 by xorshift32 (G. Marsaglia, "Xorshift RNGs", 2003): small, fast, and good enough for draws. */
export function makeRandom(seed: number): () => number {
  let state = seed | 0 || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 4_294_967_296;
  };
}

/** Sum, highest and lowest of each block side by side, so that a draw looks at one place. */
function interleaved({ sum, high, low }: Blocks): Float64Array {
  const out = new Float64Array(3 * sum.length);
  for (let i = 0; i < sum.length; i++) {
    out[3 * i] = sum[i]!;
    out[3 * i + 1] = high[i]!;
    out[3 * i + 2] = low[i]!;
  }
  return out;
}

/** Draws paths of blocks. */
function drawBlocks(moves: Moves, sessions: number, paths: number, seed: number): Blocks {
  const whole = Math.floor(sessions / BLOCK);
  const rest = sessions % BLOCK;
  const block = interleaved(blocksOf(moves, BLOCK, true));
  const last = interleaved(
    rest > 0
      ? blocksOf(moves, rest, true)
      : { sum: new Float64Array(), high: new Float64Array(), low: new Float64Array() },
  );
  const draws = whole + (rest > 0 ? 1 : 0);
  const count = moves.close.length;
  const sum = new Float64Array(paths);
  const high = new Float64Array(paths);
  const low = new Float64Array(paths);
  const random = makeRandom(seed);
  for (let path = 0; path < paths; path++) {
    let at = 0;
    let highest = 0;
    let lowest = 0;
    for (let i = 0; i < draws; i++) {
      const from = 3 * ((random() * count) | 0);
      const blocks = i < whole ? block : last;
      const up = at + blocks[from + 1]!;
      const down = at + blocks[from + 2]!;
      if (up > highest) highest = up;
      if (down < lowest) lowest = down;
      at += blocks[from]!;
    }
    sum[path] = at;
    high[path] = highest;
    low[path] = lowest;
  }
  return { sum, high, low };
}

/**
 * Share of the paths that reach a level on the way.
 *
 * @param k ln(level/F)
 * @param start ln(S/F): a level under it is reached from above
 */
export function sampleTouch({ highs, lows }: Sample, k: number, start: number): number {
  if (k === start) return 1;
  return k > start ? 1 - shareUnder(highs, k) : shareUnder(lows, k);
}

/**
 * Share of the paths that reach either of two levels on the way; 1 where they begin on one or beyond.
 *
 * @param lower ln(level/F) under the start, −∞ for none
 * @param upper the same over it, ∞ for none
 * @param start ln(S/F)
 */
export function sampleExit({ reach }: Sample, [lower, upper]: readonly [number, number], start: number): number {
  if (!(lower < start && start < upper)) return 1;
  const { highs, lows } = reach;
  let count = 0;
  for (let i = 0; i < highs.length; i++) if (highs[i]! > upper || lows[i]! <= lower) count++;
  return count / highs.length;
}

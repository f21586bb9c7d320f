import type { Replay } from '$lib/book';
import { roundTicks } from '$lib/charts/solid';
import { figures, type Sentence } from '$lib/formats';

type Row = Replay['rows'][number];

/** One of the pictures that stand over each other. */
export interface Pane {
  name: string;
  top: number;
  bottom: number;
  lines: { path: string; color: string }[];
  /** Break-evens as strokes of no length. */
  dots: string;
  ticks: { y: number; words: string }[];
  /** Where nothing is gained; null of what is no gain. */
  zero: number | null;
}

export interface Plot {
  left: number;
  right: number;
  panes: Pane[];
  x: (at: number) => number;
}

const LEFT = 52;
const RIGHT = 6;
const GAP = 8;
/** Shares of the height: price, vol, profit. */
const SHARES = [0.42, 0.2, 0.38] as const;

const TICKS = 3;

/** The pictures of a replay in pixels: moments stand evenly. */
export function plotOf(rows: readonly Row[], width: number, height: number): Plot {
  const right = Math.max(LEFT + 10, width - RIGHT);
  const x = (at: number) => LEFT + ((right - LEFT) * Math.max(0, at)) / Math.max(1, rows.length - 1);
  let top = 0;
  const pane = (
    name: string,
    share: number,
    values: readonly (number | null)[],
    color: string,
    write: (value: number) => string,
    evens: readonly (readonly number[])[] = [],
  ): Pane => {
    const begin = top;
    const bottom = begin + Math.max(10, share * (height - 2 * GAP));
    top = bottom + GAP;
    const known = values.filter((value) => value !== null);
    const isProfit = color === 'ink' && evens.length === 0;
    const all = isProfit ? [...known, 0] : known;
    let [low, high] = [Math.min(...all), Math.max(...all)];
    // Break-evens that lie far off must not flatten the price.
    const reach = 1.5 * (high - low);
    const near = evens.map((own) => own.filter((even) => even > low - reach && even < high + reach));
    for (const even of near.flat()) [low, high] = [Math.min(low, even), Math.max(high, even)];
    const pad = 0.06 * (high - low || Math.abs(high) || 1);
    const y = (value: number) => bottom - ((bottom - begin) * (value - low + pad)) / (high - low + 2 * pad);
    const path = values
      .map((value, i) =>
        value === null
          ? ''
          : `${i === 0 || values[i - 1] === null ? 'M' : 'L'}${x(i).toFixed(1)} ${y(value).toFixed(1)}`,
      )
      .join('');
    return {
      ...{ name, top: begin, bottom, zero: isProfit ? y(0) : null },
      lines: [{ path, color }],
      dots: near.flatMap((own, i) => own.map((even) => `M${x(i).toFixed(1)} ${y(even).toFixed(1)}h0`)).join(''),
      ticks: roundTicks(low, high, TICKS).map((value) => ({ y: y(value), words: write(value) })),
    };
  };
  const panes = [
    pane(
      'price, break-evens',
      SHARES[0],
      rows.map(({ price }) => price),
      'soft',
      (value) => figures.fixed(value, value < 20 ? 2 : 0),
      rows.map(({ evens }) => evens),
    ),
    pane(
      'vol',
      SHARES[1],
      rows.map(({ vol }) => (vol === null ? null : 100 * vol)),
      'implied',
      (value) => figures.fixed(value, value % 1 === 0 ? 0 : 1),
    ),
    pane(
      'profit',
      SHARES[2],
      rows.map(({ profit }) => profit),
      'ink',
      (value) => figures.fixed(value, 0),
    ),
  ];
  return { left: LEFT, right, panes, x };
}

/** How far the price has gone, held against what was expected at the entry. */
export function livedSentence({ entry, rows }: Replay, head: number): Sentence {
  const now = rows[head];
  if (!now || !entry || now.price === null)
    return { lead: 'Nothing was expected:', rest: 'no expiry was held at the entry.' };
  const move = now.price - entry.price;
  const share = Math.abs(move) / entry.deviation;
  const until = rows
    .slice(0, head + 1)
    .reduce((most, { price }) => Math.max(most, Math.abs((price ?? entry.price) - entry.price)), 0);
  const profit = now.profit ?? NaN;
  const vols = now.vol === null ? '' : `, and vol went from ${figures.vol(entry.vol)} to ${figures.vol(now.vol)}`;
  return {
    lead: `${profit >= 0 ? 'Gained' : 'Lost'} ${figures.count(Math.abs(profit))}:`,
    rest: `the price moved ${figures.signed(move, 2)}, ${figures.fixed(share, 2)} of the deviation of ${figures.fixed(entry.deviation, 2)} that was expected until ${entry.expiry}, at most ${figures.fixed(until, 2)} on its way${vols}.`,
  };
}

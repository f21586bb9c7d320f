import { GRID_SCALES, WORTH_BY, type GridScale, type WorthBy } from '@umwelt/core';
import { defineParams, numberIn, oneOf, texts, word } from '$lib/address/params';

/** What positions are shown. */
export const STATES = ['open', 'closed', 'all'] as const;
export type Shown = (typeof STATES)[number];

/** What an underlying is taken apart by. */
export const PARTS = ['expiry', 'strike', 'position'] as const;
export type Part = (typeof PARTS)[number];

/** Greeks of the table: those of the first order, or of the second. */
export const ORDERS = ['first', 'second'] as const;
export type Order = (typeof ORDERS)[number];

/** What is shown under the families. */
export const BELOWS = ['positions', 'position', 'replay', 'journal'] as const;
export type ShownBelow = (typeof BELOWS)[number];

/** How far prices and vols are moved: as usual, or as in a crash. */
export const REACHES = ['usual', 'gaps'] as const;
export type Reach = (typeof REACHES)[number];

/** Since when a change is explained, and how: each part after the ones before it, averaged over all orders, or by the Greeks. */
export const SINCES = ['ghost', 'close', 'entry'] as const;
export type Since = (typeof SINCES)[number];
export const METHODS = ['turn', 'averaged', 'greeks'] as const;
export type Method = (typeof METHODS)[number];
/** The whole at once, or day by day. */
export const TOLDS = ['whole', 'days'] as const;
export type ToldAs = (typeof TOLDS)[number];

/** At what a position is followed: the last moment of each session, or every one that is held. */
export const STEPS = ['session', 'moment'] as const;
export type Step = (typeof STEPS)[number];

export const MOST_AHEAD = 120;
const MOST_ID = 2 ** 31 - 1;
const MOST_OPEN = 60;

export interface BookParams {
  /** Of the book in view; 0 for the first. */
  bookId: number;
  /** Of the position in focus; 0 for none. */
  positionId: number;
  shown: Shown;
  worthBy: WorthBy;
  part: Part;
  order: Order;
  /** Parts that are opened. */
  open: readonly string[];
  /** In whose price moves are told: a symbol, one behind beta:, or each in its own. */
  told: string | null;
  shownBelow: ShownBelow;
  reach: Reach;
  gridScale: GridScale;
  /** Days ahead. */
  gridAhead: number;
  explainedSince: Since;
  method: Method;
  toldAs: ToldAs;
  /** Whose change is explained, where no position is in focus; null for all of the book. */
  explainedFamily: string | null;
  step: Step;
}

export const PARAMS = defineParams<BookParams>({
  bookId: numberIn('book', [0, MOST_ID], 0, true),
  positionId: numberIn('position', [0, MOST_ID], 0, true),
  shown: oneOf('positions', STATES, 'open'),
  worthBy: oneOf('bookworth', WORTH_BY, 'mid'),
  part: oneOf('bookby', PARTS, 'expiry'),
  order: oneOf('bookgreeks', ORDERS, 'first'),
  open: texts('bookopen', ';', MOST_OPEN),
  told: word<string | null>('bookin', null),
  shownBelow: oneOf('bookbelow', BELOWS, 'positions'),
  reach: oneOf('bookreach', REACHES, 'usual'),
  gridScale: oneOf('bookvols', GRID_SCALES, 'parallel'),
  gridAhead: numberIn('bookahead', [0, MOST_AHEAD], 0, true),
  explainedSince: oneOf('booksince', SINCES, 'ghost'),
  method: oneOf('bookorder', METHODS, 'turn'),
  toldAs: oneOf('bookas', TOLDS, 'whole'),
  explainedFamily: word<string | null>('bookfamily', null),
  step: oneOf('bookstep', STEPS, 'session'),
});

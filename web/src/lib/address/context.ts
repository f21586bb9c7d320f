import {
  BASES,
  DRIFTS,
  ESTIMATOR_CODES,
  ESTIMATORS,
  SAMPLINGS,
  VOL_WINDOWS,
  expiryName,
  parseExpiryName,
  type Basis,
  type Drift,
  type Estimator,
  type ManualVol,
  type NamedExpiry,
  type NamedLeg,
  type Settlement,
  type Side,
} from '@umwelt/core';
import { defineParams, flag, moment, numberIn, numberOf, oneOf, plain, word, type Joint, type Param } from './params';

/** The quote that a contract's own vol is read from. */
export const QUOTES = ['mid', 'bid', 'ask'] as const;
export type QuoteSide = (typeof QUOTES)[number];

/** Steps a second while playing. */
export const PLAY_SPEEDS = [2, 4, 8, 15, 30] as const;
export type PlaySpeed = (typeof PLAY_SPEEDS)[number];

/** What is stepped by: the last moment of each session, or every moment held. */
export const PLAY_STEPS = ['session', 'moment'] as const;
export type PlayStep = (typeof PLAY_STEPS)[number];

/** How many of the last sessions are played; 0 is all. */
export const PLAY_SPANS = [0, 252, 120, 60, 20, 5] as const;
export type PlaySpan = (typeof PLAY_SPANS)[number];

/** Windows of historical vols; 0 is as many sessions as are left to the expiry in focus. */
export const WINDOWS = [...VOL_WINDOWS, 0] as const;
export type Window = (typeof WINDOWS)[number];
const TO_EXPIRY = 'expiry';

/** The law of `realized`: lognormal with its vol, or past moves, whole stretches or paths of blocks. */
export const PAST_LAWS = ['lognormal', ...SAMPLINGS] as const;
export type PastLaw = (typeof PAST_LAWS)[number];

/** What all views share of the page's state: it goes with the reader from one to the next. */
export interface Context {
  /** Underlying; null before one is chosen. */
  symbol: string | null;
  /** Moment in view, ISO with zone; null is the latest. */
  asof: string | null;
  /** Moment kept in view for comparison. */
  ghost: string | null;
  basis: Basis;
  /** The vol of the basis `manual`: one number, or what is added to every curve. */
  manual: ManualVol;
  /** What `realized` is: an estimator over a window, and whether its odds are lognormal or drawn from the past. */
  realizedBy: Estimator;
  realizedWindow: Window;
  pastLaw: PastLaw;
  drift: Drift;
  quotes: QuoteSide;
  /** The focus: an expiry, a strike, a side; null is what the view chooses. */
  expiry: string | null;
  /** Null: pm, or the only series of that day. */
  settlement: Settlement | null;
  strike: number | null;
  side: Side | null;
  /** Contracts of the underlying that are picked as one structure. */
  legs: readonly NamedLeg[];
  /** Of the underlying beside them, in its own units. */
  held: number;
  speed: PlaySpeed;
  playStep: PlayStep;
  playSpan: PlaySpan;
  isLooping: boolean;
}

/** Whether a text names an expiry. */
export const isExpiry = (text: string) => parseExpiryName(text) !== null;

/** Vols that can be typed, and by how much curves can be shifted: decimals. */
export const MOST_MANUAL = 5;
const MANUAL_DIGITS = 1e6;
const USUAL_MANUAL: ManualVol = { kind: 'vol', value: 0.2 };

/** A typed vol in points: `25` for all strikes, `shift2` for what is added to the curves. */
function readManual(text: string | null): ManualVol {
  const [, shift, digits] = /^(shift)?(-?\d+(?:\.\d+)?)$/.exec(text ?? '') ?? [];
  const value = Math.round(Number(digits) * (MANUAL_DIGITS / 100)) / MANUAL_DIGITS;
  const isSense = digits !== undefined && Math.abs(value) <= MOST_MANUAL && (shift !== undefined || value > 0);
  return isSense ? { kind: shift ? 'shift' : 'vol', value } : USUAL_MANUAL;
}

function writeManual({ kind, value }: ManualVol): string {
  return `${kind === 'shift' ? 'shift' : ''}${Math.round(value * MANUAL_DIGITS) / (MANUAL_DIGITS / 100)}`;
}

/** A window of sessions; `expiry` for those that are left. */
export const windowParam = (name: string): Param<Window> => ({
  name,
  usual: 20,
  read: (text) => WINDOWS.find((window) => text === (window === 0 ? TO_EXPIRY : String(window))) ?? 20,
  write: (value) => (value === 0 ? TO_EXPIRY : String(value)),
});

const nameOf = ({ expiry, settlement }: NamedExpiry) => expiryName({ expiry, settlement: settlement ?? 'pm' });

/** Units of the underlying that can be held beside the legs. */
const MOST_HELD = 1e7;

/** Legs such as `2c4300@2031-04-17` and `-1p4000@2031-04-17am`; `1c3@2031-05-15:AQFU31` is of another delivery. */
export const MOST_LEGS = 12;
const LEG = /^(-?\d{1,6})([cp])(\d+(?:\.\d+)?)@([^:]+)(?::(.{1,32}))?$/;
export const legsParam = (name: string): Param<readonly NamedLeg[]> => ({
  name,
  usual: [],
  read: (text, symbol) =>
    (text ?? '')
      .split(',')
      .flatMap((one): NamedLeg[] => {
        const [, quantity, side, strike, name = '', other] = LEG.exec(one) ?? [];
        const expires = parseExpiryName(name);
        if (!Number(quantity) || !expires || symbol === null) return [];
        const leg = { strike: Number(strike), quantity: Number(quantity) };
        return [{ symbol: other ?? symbol, ...expires, ...leg, side: side === 'c' ? 'call' : 'put' }];
      })
      .slice(0, MOST_LEGS),
  write: (value, symbol) =>
    value
      .map((leg) => {
        const other = symbol === null || leg.symbol === symbol ? '' : `:${leg.symbol}`;
        return `${leg.quantity}${leg.side.charAt(0)}${leg.strike}@${nameOf(leg)}${other}`;
      })
      .join() || null,
});

/** The expiry in focus by its name. */
const expiry: Joint<Context> = {
  name: 'expiry',
  before: 'strike',
  usual: { expiry: null, settlement: null },
  read: (text) => parseExpiryName(text ?? '') ?? expiry.usual,
  write: ({ expiry, settlement }) => (expiry ? nameOf({ expiry, settlement: settlement ?? null }) : null),
};

const { read: readWindow, write: writeWindow } = windowParam('window');

/** An estimator and a window: `yz20`, `yzexpiry`. */
const realized: Joint<Context> = {
  name: 'realized',
  before: 'pastLaw',
  usual: { realizedBy: 'yang-zhang', realizedWindow: 20 },
  read: (text) => {
    for (const realizedBy of ESTIMATORS) {
      const code = ESTIMATOR_CODES[realizedBy];
      const rest = text?.startsWith(code) ? text.slice(code.length) : null;
      const realizedWindow = readWindow(rest, null);
      if (rest === writeWindow(realizedWindow, null)) return { realizedBy, realizedWindow };
    }
    return realized.usual;
  },
  write: ({ realizedBy, realizedWindow }) => `${ESTIMATOR_CODES[realizedBy!]}${writeWindow(realizedWindow!, null)}`,
};

export const CONTEXT = defineParams<Context, 'expiry' | 'settlement' | 'realizedBy' | 'realizedWindow'>(
  {
    symbol: word<string | null>('symbol', null),
    asof: moment('asof'),
    ghost: moment('ghost'),
    basis: oneOf('basis', BASES, 'curve'),
    manual: { name: 'manual', usual: USUAL_MANUAL, read: readManual, write: writeManual },
    pastLaw: oneOf('past', PAST_LAWS, 'lognormal'),
    drift: oneOf('drift', DRIFTS, 'forward'),
    quotes: oneOf('quotes', QUOTES, 'mid'),
    strike: {
      name: 'strike',
      usual: null,
      read: (text) => (Number.isFinite(Number(text ?? NaN)) ? Number(text) : null),
      write: plain,
    },
    side: {
      name: 'side',
      usual: null,
      read: (text) => (text === 'call' || text === 'put' ? text : null),
      write: plain,
    },
    legs: legsParam('legs'),
    held: numberIn('held', [-MOST_HELD, MOST_HELD], 0),
    speed: numberOf('speed', PLAY_SPEEDS, 8),
    playStep: oneOf('step', PLAY_STEPS, 'session'),
    playSpan: numberOf('play', PLAY_SPANS, 0),
    isLooping: flag('loop', 'on'),
  },
  { joint: [expiry, realized], ofUnderlying: ['expiry', 'settlement', 'strike', 'side', 'legs', 'held'] },
);

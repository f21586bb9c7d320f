import {
  BASES,
  DRIFTS,
  ESTIMATOR_CODES,
  ESTIMATORS,
  GRID_QUANTITIES,
  MOVE_MEASURES,
  ODDS_KINDS,
  PAIR_UNITS,
  SAMPLINGS,
  STEP_KINDS,
  STRADDLE_CHOICES,
  UNDERLYING_KINDS,
  VOL_WINDOWS,
  expiryName,
  parseExpiryName,
  type Basis,
  type Drift,
  type Estimator,
  type ExpiryClass,
  type GridQuantity,
  type ManualVol,
  type MoveMeasure,
  type NamedExpiry,
  type NamedLeg,
  type OddsKind,
  type PairUnit,
  type Settlement,
  type StepKind,
  type StraddleChoice,
  type UnderlyingKind,
} from '@umwelt/core';
import {
  CHAIN_COLUMN_IDS,
  CHAIN_SET_NAMES,
  CHAIN_SETS,
  setOfColumns,
  type ChainColumnId,
  expandColumns,
  shortColumns,
  USUAL_COLUMNS,
} from '$lib/columns';

/** The quote that a contract's own vol is read from. */
export const QUOTES = ['mid', 'bid', 'ask'] as const;
export type QuoteSide = (typeof QUOTES)[number];

export const AXES = ['strike', 'forward', 'log', 'standardized', 'delta'] as const;
export type Axis = (typeof AXES)[number];

/** Which contracts the skew shows at each strike. */
export const SKEW_SIDES = ['otm', 'call', 'put', 'both'] as const;
export type SkewSides = (typeof SKEW_SIDES)[number];

/** What stands upright in the skew. */
export const SKEW_SCALES = ['vol', 'shape', 'variance'] as const;
export type SkewScale = (typeof SKEW_SCALES)[number];

export const EXPIRY_CLASSES = ['weekly', 'monthly', 'quarterly'] as const satisfies readonly ExpiryClass[];

/**
 * Which vol of each expiry the term structure shows: `atm`, or that of a put or call at a forward delta in per cent, such as
 * `put25`.
 */
export type TermReading = 'atm' | `put${number}` | `call${number}`;

/** What is drawn beside the vols of the term structure. */
export const TERM_LAYERS = ['steps', 'maturities', 'realized', 'band'] as const;
export type TermLayer = (typeof TERM_LAYERS)[number];

/** What the main panel of the Surface shows. */
export const SURFACE_VIEWS = ['skew', 'map', 'pairs', 'measures'] as const;
export type SurfaceView = (typeof SURFACE_VIEWS)[number];

/** More lines than that could not be told apart. */
export const MOST_BESIDE = 4;

/** How a quantity over strikes and times is drawn: as colours, as a body, or as lines by strike. */
export const MAP_FORMS = ['heat', 'body', 'lines'] as const;
export type MapForm = (typeof MAP_FORMS)[number];

/** What the lower panel of the Surface shows. */
export const SURFACE_PANELS = ['expiries', 'density', 'arbitrage', 'aside', 'deliveries'] as const;
export type SurfacePanel = (typeof SURFACE_PANELS)[number];

/** Steps a second while playing. */
export const PLAY_SPEEDS = [2, 4, 8, 15, 30] as const;
export type PlaySpeed = (typeof PLAY_SPEEDS)[number];

/** What is stepped by: the last moment of each session, or every moment held. */
export const PLAY_STEPS = ['session', 'moment'] as const;
export type PlayStep = (typeof PLAY_STEPS)[number];

/** How many of the last sessions are played; 0 is all. */
export const PLAY_SPANS = [0, 252, 120, 60, 20, 5] as const;
export type PlaySpan = (typeof PLAY_SPANS)[number];

/** What quantities of the chain are for: a unit of the underlying, a contract, or so many contracts. */
export const UNITS = ['unit', 'contract', 'position'] as const;
export type Units = (typeof UNITS)[number];

/** How far from the forward strikes are listed: so many on each side, per cent of it, or deviations; all of them. */
export const STRIKE_RANGES = ['all', 'strikes', 'percent', 'deviations'] as const;
export type StrikeRange = (typeof STRIKE_RANGES)[number];

/** What stands under the chain. */
export const DRAWERS = ['none', 'target', 'theta', 'priced'] as const;
export type Drawer = (typeof DRAWERS)[number];

/** Which prints the tape shows. */
export const TAPE_LEGS = ['all', 'single', 'several'] as const;
export type TapeLegs = (typeof TAPE_LEGS)[number];
export const TAPE_SIDES = ['all', 'above', 'below'] as const;
export type TapeSides = (typeof TAPE_SIDES)[number];

/** Panels of the Odds view: left below the price, right below the densities. */
export const ODDS_LEFT = ['expiries', 'record', 'zones', 'strikes', 'events', 'pain'] as const;
export type OddsLeft = (typeof ODDS_LEFT)[number];
export const ODDS_RIGHT = ['contract', 'spread', 'hedge'] as const;
export type OddsRight = (typeof ODDS_RIGHT)[number];
/** Where the levels of the zones come from. */
export const ZONE_PRESETS = ['typed', 'deviation', 'deviations', 'percent5', 'percent10', 'spread'] as const;
export type ZonePreset = (typeof ZONE_PRESETS)[number];
/** Laws that are drawn over each other: the bases, and paths of the past. */
export const LAWS = [...BASES, 'past'] as const;
export type LawName = (typeof LAWS)[number];
export const PRICE_AXES = ['price', 'return'] as const;
export type PriceAxis = (typeof PRICE_AXES)[number];

/** Stands between formulas in an address: no formula has it. */
const BETWEEN = '|';
/** Columns and conditions that are held at most. */
export const MOST_COLUMNS = 50;
export const MOST_CONDITIONS = 24;
/** What the Universe shows: its table, peers of one, or a wall of what. */
export const WALLS = ['none', 'peers', 'vols', 'term', 'skew', 'cone', 'price'] as const;
export type Wall = (typeof WALLS)[number];
/** Sessions over which peers are compared. */
export const PEER_SESSIONS = [60, 120, 252] as const;
export type PeerSessions = (typeof PEER_SESSIONS)[number];
/** Pictures of History. */
export const HISTORY_VIEWS = ['path', 'cone', 'premium', 'announcements'] as const;
export type HistoryView = (typeof HISTORY_VIEWS)[number];
/** Implied vols by session: at fixed days, the variance index, and wings at 30 days. */
export const IMPLIED_NAMES = [
  ...(['iv7', 'iv30', 'iv60', 'iv90', 'iv180', 'iv360', 'index'] as const),
  ...(['put25', 'call25', 'put10', 'call10'] as const),
] as const;
export type ImpliedName = (typeof IMPLIED_NAMES)[number];
/** What stands below the vols of History. */
export const LOWERS = ['gap', 'ratio', 'rr25', 'bf25', 'slope', 'move'] as const;
export type Lower = (typeof LOWERS)[number];
/** Windows of historical vols; 0 is as many sessions as are left to the expiry in focus. */
export const WINDOWS = [...VOL_WINDOWS, 0] as const;
export type Window = (typeof WINDOWS)[number];
const TO_EXPIRY = 'expiry';
/** The law of `realized`: lognormal with its vol, or past moves, whole stretches or paths of blocks. */
export const PAST_LAWS = ['lognormal', ...SAMPLINGS] as const;
export type PastLaw = (typeof PAST_LAWS)[number];
/** Sessions over which a value is ranked; 0 is all. */
export const LOOKBACKS = [60, 120, 252, 504, 0] as const;
export type Lookback = (typeof LOOKBACKS)[number];
/** What History shows: months, what implied vols are held of, or all bars. */
export const SPANS = ['3m', '6m', '1y', 'held', 'bars'] as const;
export type Span = (typeof SPANS)[number];

/**
 * The state of the whole application, and of what its views show. All of it stands in the address, so that a
 * link reopens what was seen.
 */
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
  side: 'call' | 'put' | null;
  /** Columns of the chain from its edge to the strikes, on the side of the calls. */
  columns: readonly ChainColumnId[];
  /** Names of expiries that are unfolded; null is the one in focus. */
  opened: readonly string[] | null;
  units: Units;
  /** Contracts of a position. */
  times: number;
  strikeRange: StrikeRange;
  rangeSize: number;
  drawer: Drawer;
  /** Whether the tape stands beside the chain. */
  hasTape: boolean;
  /** Odds that strikes are looked for by, and whether those that meet them are lit. */
  isTargeting: boolean;
  targetKind: OddsKind;
  target: number;
  /** Width of the spread whose credit is shown, in money; 0 for a contract by itself. */
  targetWidth: number;
  tapeLegs: TapeLegs;
  tapeSides: TapeSides;
  tapeSize: number;
  /** Contracts of the underlying that are picked in the chain as one structure. */
  legs: readonly NamedLeg[];
  /** Axis of the skew. */
  axis: Axis;
  sides: SkewSides;
  scale: SkewScale;
  /** Whether the upright axis of the skew is logarithmic. */
  isLog: boolean;
  /** Whether the distances of the quotes from the curve are shown under the skew. */
  hasMisses: boolean;
  /** Underlyings whose curves are drawn beside those of the one in view. */
  beside: readonly string[];
  surface: SurfaceView;
  quantity: GridQuantity;
  form: MapForm;
  /** Whose Greeks the map shows. */
  mapSide: 'call' | 'put';
  /** Whether the map shows how far it is from the ghost. */
  isDifference: boolean;
  /** How far from the forward the strikes of a pair are. */
  pairUnit: PairUnit;
  pairSize: number;
  panel: SurfacePanel;
  /** Whether the band of the past lies under the skew. */
  hasBand: boolean;
  /** The expiries of the term structure. */
  classes: readonly ExpiryClass[];
  reading: TermReading;
  layers: readonly TermLayer[];
  /** Names of expiries that the skew leaves out. */
  hidden: readonly string[];
  speed: PlaySpeed;
  playStep: PlayStep;
  playSpan: PlaySpan;
  isLooping: boolean;
  /** Columns of the Universe in their order, by their keys, and conditions that leave underlyings out. */
  show: readonly string[];
  keep: readonly string[];
  /** Kinds and families that the Universe shows; none means all. */
  kinds: readonly UnderlyingKind[];
  families: readonly string[];
  /** The column that it is ordered by, with | rising behind it where it rises. */
  sort: string;
  /** What the Universe shows; none is the table. */
  wall: Wall;
  /** Whether the charts of the wall share their axes, and whether vols have option volume under them. */
  isShared: boolean;
  hasVolume: boolean;
  /** Over how many sessions peers are compared, and whether those of its own family and of other kinds are left out. */
  peerSessions: PeerSessions;
  isApart: boolean;
  isSameKind: boolean;
  history: HistoryView;
  implied: readonly ImpliedName[];
  /** Those of History's vols; the first is the one that implied is held against. */
  estimators: readonly Estimator[];
  window: Window;
  /** What the Pricer changes of the contract in focus: `vol:0.25;days:30`. */
  changes: string;
  /** Whether History goes back over all bars, or only over the sessions with implied vols. */
  lower: Lower;
  lookback: Lookback;
  span: Span;
  /** The day that History begins with, in place of a span. */
  since: string | null;
  /** The kind of announcements that are studied; blank for all. */
  announced: string;
  oddsLeft: OddsLeft;
  oddsRight: OddsRight;
  /** Over what past expected moves are followed, and which of the two. */
  stepKind: StepKind;
  moveMeasure: MoveMeasure;
  straddleChoice: StraddleChoice;
  preset: ZonePreset;
  /** Levels of the zones where they are typed or dragged. */
  levels: readonly number[];
  laws: readonly LawName[];
  isUnder: boolean;
  priceAxis: PriceAxis;
  /** Gains and losses of the contract that odds are asked for, per cent of its price. */
  shares: readonly number[];
}

const DAY = /^\d{4}-\d\d-\d\d$/;

/** An empty list in an address. */
const NONE = 'none';

/** How a value of the context stands in the address. */
interface Param<T> {
  name: string;
  /** What an address that does not say it means. */
  usual: T;
  /** What stands when nothing has been chosen yet, where that is something else. */
  fresh?: T;
  /** What makes no sense is as usual. */
  read: (text: string | null, symbol: string | null) => T;
  write: (value: T) => string | null;
}

const plain = (value: string | number | null) => (value === null ? null : String(value));

function oneOf<T extends string>(name: string, words: readonly T[], usual: T): Param<T> {
  return { name, usual, read: (text) => words.find((word) => word === text) ?? usual, write: plain };
}

function numberOf<T extends number>(name: string, numbers: readonly T[], usual: T): Param<T> {
  return { name, usual, read: (text) => numbers.find((number) => String(number) === text) ?? usual, write: plain };
}

/** A number between two ends. */
function numberIn(name: string, [low, high]: readonly [number, number], usual: number, isWhole = false): Param<number> {
  const read = (text: string | null) => {
    const value = Number(text || NaN);
    return value >= low && value <= high && (!isWhole || Number.isInteger(value)) ? value : usual;
  };
  return { name, usual, read, write: plain };
}

/** What is as usual unless the address has a word for it. */
function flag(name: string, word: string, usual = false): Param<boolean> {
  return {
    name,
    usual,
    read: (text) => (text === word ? !usual : usual),
    write: (value) => (value === usual ? null : word),
  };
}

/** Those of the words that a list names, in the order of the words; a list without any of them is as usual. */
function someOf<T extends string>(name: string, words: readonly T[], usual: readonly T[]): Param<readonly T[]> {
  const read = (text: string | null) => {
    if (text === NONE) return [];
    const named = words.filter((word) => text?.split(',').includes(word));
    return named.length > 0 ? named : usual;
  };
  return { name, usual, read, write: (value) => value.join() || NONE };
}

/** The same in the order in which they are named, each once. */
function namedOf<T extends string>(name: string, words: readonly T[], usual: readonly T[]): Param<readonly T[]> {
  const read = (text: string | null) => {
    const named = (text ?? '').split(',').flatMap((one) => words.find((word) => word === one) ?? []);
    return named.length > 0 ? [...new Set(named)] : usual;
  };
  return { name, usual, read, write: (value) => value.join() };
}

/** Texts without a comma or | in them, each once. */
function texts(name: string, between: string, fits: (text: string) => boolean, most: number): Param<readonly string[]> {
  const read = (text: string | null) =>
    [...new Set((text ?? '').split(between).map((one) => one.trim()))].filter((one) => one && fits(one)).slice(0, most);
  return { name, usual: [], read, write: (value) => value.join(between) || null };
}

/** Numbers between two ends, each once. */
function numbers(
  name: string,
  [low, high]: readonly [number, number],
  most: number,
  usual: readonly number[],
): Param<readonly number[]> {
  const read = (text: string | null) => {
    if (text === NONE) return [];
    const named = (text ?? '').split(',').map((one) => Number(one || NaN));
    const sense = [...new Set(named.filter((one) => one >= low && one <= high))].slice(0, most);
    return sense.length > 0 ? sense : usual;
  };
  return { name, usual, read, write: (value) => value.join() || NONE };
}

const word = <T extends string | null>(name: string, usual: T): Param<T> => ({
  name,
  usual,
  read: (text) => (text || usual) as T,
  write: (value) => value || null,
});

const moment = (name: string): Param<string | null> => ({
  name,
  usual: null,
  read: (text) => (text !== null && !Number.isNaN(Date.parse(text)) ? text : null),
  write: plain,
});

const isDay = (text: string) => DAY.test(text);
const isExpiry = (text: string) => parseExpiryName(text) !== null;
const day = (name: string): Param<string | null> => ({
  name,
  usual: null,
  read: (text) => (text !== null && isDay(text) ? text : null),
  write: plain,
});

/** A reading of the term structure: deltas between 1 and 50. */
export function readingOf(text: string | null): TermReading {
  const [, side, digits] = /^(put|call)(\d{1,2})$/.exec(text ?? '') ?? [];
  const delta = Number(digits);
  return side && delta >= 1 && delta <= 50 ? (`${side}${delta}` as TermReading) : 'atm';
}

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

/** Estimators by their codes; at least one. */
const USUAL_ESTIMATORS: readonly Estimator[] = ['yang-zhang'];
function estimators(name: string): Param<readonly Estimator[]> {
  const codes = namedOf(name, Object.values(ESTIMATOR_CODES), []);
  return {
    name,
    usual: USUAL_ESTIMATORS,
    read: (text) => {
      const named = codes.read(text, null).map((code) => ESTIMATORS.find((one) => ESTIMATOR_CODES[one] === code)!);
      return named.length > 0 ? named : USUAL_ESTIMATORS;
    },
    write: (value) => value.map((one) => ESTIMATOR_CODES[one]).join(),
  };
}

/** Columns of the Universe; a list without any that makes sense is as usual. */
const screenColumns: Param<readonly string[]> = {
  name: 'show',
  usual: USUAL_COLUMNS,
  read: (text) => {
    const named = [...new Set((text ?? '').split(BETWEEN).map((one) => one.trim()))].filter(Boolean);
    const columns = expandColumns(named).slice(0, MOST_COLUMNS);
    return columns.length > 0 ? columns : USUAL_COLUMNS;
  },
  write: (value) => shortColumns(value).join(BETWEEN),
};

/** Columns of the chain: the name of a set, or their own. */
const chainColumns: Param<readonly ChainColumnId[]> = {
  name: 'columns',
  usual: CHAIN_SETS.quotes,
  read: (text) => {
    const set = CHAIN_SET_NAMES.find((one) => one === text);
    return set ? CHAIN_SETS[set] : namedOf('columns', CHAIN_COLUMN_IDS, CHAIN_SETS.quotes).read(text, null);
  },
  write: (value) => setOfColumns(value) ?? value.join(),
};

const windowOf: Param<Window> = {
  name: 'window',
  usual: 20,
  read: (text) => WINDOWS.find((window) => text === (window === 0 ? TO_EXPIRY : String(window))) ?? 20,
  write: (value) => (value === 0 ? TO_EXPIRY : String(value)),
};

const nameOf = ({ expiry, settlement }: NamedExpiry) => expiryName({ expiry, settlement: settlement ?? 'pm' });

/** Legs of the underlying such as `2c4300@2031-04-17` and `-1p4000@2031-04-17am`. */
export const MOST_LEGS = 4;
const LEG = /^(-?\d{1,6})([cp])(\d+(?:\.\d+)?)@(.+)$/;
const legs: Param<readonly NamedLeg[]> = {
  name: 'legs',
  usual: [],
  read: (text, symbol) =>
    (text ?? '')
      .split(',')
      .flatMap((one): NamedLeg[] => {
        const [, quantity, side, strike, name = ''] = LEG.exec(one) ?? [];
        const expires = parseExpiryName(name);
        if (!Number(quantity) || !expires || symbol === null) return [];
        const leg = { strike: Number(strike), quantity: Number(quantity) };
        return [{ symbol, ...expires, ...leg, side: side === 'c' ? 'call' : 'put' }];
      })
      .slice(0, MOST_LEGS),
  write: (value) =>
    value.map((leg) => `${leg.quantity}${leg.side.charAt(0)}${leg.strike}@${nameOf(leg)}`).join() || null,
};

/** Every value of the context by itself, in the order of the address. */
const PARAMS: { [K in Exclude<keyof Context, keyof Pairs>]: Param<Context[K]> } = {
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
  side: { name: 'side', usual: null, read: (text) => (text === 'call' || text === 'put' ? text : null), write: plain },
  columns: chainColumns,
  opened: {
    name: 'open',
    usual: null,
    read: (text) => (text === null ? null : text.split(',').filter(isExpiry)),
    write: (value) => value && (value.join() || NONE),
  },
  units: oneOf('units', UNITS, 'unit'),
  times: numberIn('times', [-1e6, 1e6], 1, true),
  drawer: oneOf('drawer', DRAWERS, 'none'),
  hasTape: flag('tape', 'on'),
  isTargeting: flag('targeting', 'on'),
  targetKind: oneOf('target-of', ODDS_KINDS, 'itm'),
  target: numberIn('target', [0.5, 60], 15),
  targetWidth: numberIn('wide', [0, 1e6], 0),
  tapeLegs: oneOf('prints', TAPE_LEGS, 'all'),
  tapeSides: oneOf('against', TAPE_SIDES, 'all'),
  tapeSize: numberIn('size', [0, 1e6], 0, true),
  legs,
  axis: oneOf('axis', AXES, 'strike'),
  sides: oneOf('sides', SKEW_SIDES, 'otm'),
  scale: oneOf('scale', SKEW_SCALES, 'vol'),
  isLog: flag('upright', 'log'),
  hasMisses: flag('misses', 'shown'),
  beside: { ...texts('beside', ',', () => true, MOST_BESIDE) },
  surface: oneOf('view', SURFACE_VIEWS, 'skew'),
  quantity: oneOf('of', GRID_QUANTITIES, 'vol'),
  form: oneOf('as', MAP_FORMS, 'heat'),
  mapSide: oneOf('of-side', ['call', 'put'], 'call'),
  isDifference: flag('less', 'ghost'),
  panel: oneOf('panel', SURFACE_PANELS, 'expiries'),
  hasBand: flag('band', 'shown'),
  classes: someOf('classes', EXPIRY_CLASSES, EXPIRY_CLASSES),
  reading: { name: 'reading', usual: 'atm', read: readingOf, write: plain },
  layers: someOf('layers', TERM_LAYERS, ['realized']),
  hidden: texts('hidden', ',', isExpiry, Infinity),
  speed: numberOf('speed', PLAY_SPEEDS, 8),
  playStep: oneOf('step', PLAY_STEPS, 'session'),
  playSpan: numberOf('play', PLAY_SPANS, 0),
  isLooping: flag('loop', 'on'),
  show: screenColumns,
  keep: texts('keep', BETWEEN, () => true, MOST_CONDITIONS),
  kinds: { ...someOf('kinds', UNDERLYING_KINDS, []), write: (value) => value.join() || null },
  families: texts('families', BETWEEN, () => true, Infinity),
  sort: word<string>('sort', 'iv30 / hv20.yz'),
  wall: oneOf('wall', WALLS, 'none'),
  isShared: flag('axes', 'own', true),
  hasVolume: flag('foot', 'volume'),
  peerSessions: numberOf('compared', PEER_SESSIONS, 120),
  isApart: flag('apart', 'true'),
  isSameKind: flag('alike', 'true'),
  history: oneOf('picture', HISTORY_VIEWS, 'path'),
  implied: namedOf('iv', IMPLIED_NAMES, ['iv30']),
  estimators: estimators('hv'),
  window: windowOf,
  lower: oneOf('below', LOWERS, 'gap'),
  lookback: numberOf('lookback', LOOKBACKS, 252),
  span: oneOf('span', SPANS, 'held'),
  since: day('since'),
  announced: word<string>('announced', ''),
  changes: word<string>('set', ''),
  oddsLeft: oneOf('left', ODDS_LEFT, 'expiries'),
  oddsRight: oneOf('right', ODDS_RIGHT, 'contract'),
  stepKind: oneOf('moves', STEP_KINDS, 'week'),
  moveMeasure: oneOf('by', MOVE_MEASURES, 'straddle'),
  // Addresses that do not say it are of the time when the two strikes around the forward were all there was.
  straddleChoice: { ...oneOf('straddle', STRADDLE_CHOICES, 'bracket'), fresh: 'forward' },
  preset: oneOf('zones', ZONE_PRESETS, 'deviation'),
  levels: numbers('levels', [0, 1e9], 8, []),
  laws: someOf('laws', LAWS, ['curve', 'level', 'realized', 'past']),
  isUnder: flag('law', 'under'),
  priceAxis: oneOf('on', PRICE_AXES, 'price'),
  shares: numbers('shares', [1, 1000], 5, [50, 20, 10]),
};

/** Values that stand in the address together. */
type Pairs = Pick<
  Context,
  'expiry' | 'settlement' | 'pairUnit' | 'pairSize' | 'realizedBy' | 'realizedWindow' | 'strikeRange' | 'rangeSize'
>;

/** The expiry in focus by its name. */
const expiry: Param<NamedExpiry | Pick<Context, 'expiry' | 'settlement'>> = {
  name: 'expiry',
  usual: { expiry: null, settlement: null },
  read: (text) => parseExpiryName(text ?? '') ?? expiry.usual,
  write: ({ expiry, settlement }) => expiry && nameOf({ expiry, settlement }),
};

/** The distance of a pair, such as `5 percent`: whole steps, less than all of the forward, no more than ten deviations. */
const pair: Param<Pick<Context, 'pairUnit' | 'pairSize'>> = {
  name: 'pair',
  usual: { pairUnit: 'percent', pairSize: 5 },
  read: (text) => {
    const [, digits, unit] = /^(\d+(?:\.\d+)?) (\w+)$/.exec(text ?? '') ?? [];
    const pairUnit = PAIR_UNITS.find((one) => one === unit);
    const pairSize = Number(digits);
    const isSense =
      pairUnit !== undefined &&
      pairSize > 0 &&
      pairSize <= { steps: 100, percent: 99, deviations: 10 }[pairUnit] &&
      (pairUnit !== 'steps' || Number.isInteger(pairSize));
    return isSense ? { pairUnit, pairSize } : pair.usual;
  },
  write: ({ pairUnit, pairSize }) => `${pairSize} ${pairUnit}`,
};

/** An estimator and a window: `yz20`, `yzexpiry`. */
const realized: Param<Pick<Context, 'realizedBy' | 'realizedWindow'>> = {
  name: 'realized',
  usual: { realizedBy: 'yang-zhang', realizedWindow: 20 },
  read: (text) => {
    for (const realizedBy of ESTIMATORS) {
      const code = ESTIMATOR_CODES[realizedBy];
      const rest = text?.startsWith(code) ? text.slice(code.length) : null;
      const realizedWindow = WINDOWS.find((window) => rest === windowOf.write(window));
      if (realizedWindow !== undefined) return { realizedBy, realizedWindow };
    }
    return realized.usual;
  },
  write: ({ realizedBy, realizedWindow }) => `${ESTIMATOR_CODES[realizedBy]}${windowOf.write(realizedWindow)}`,
};

/** How far strikes are listed, such as `20 strikes`. */
const range: Param<Pick<Context, 'strikeRange' | 'rangeSize'>> = {
  name: 'range',
  usual: { strikeRange: 'all', rangeSize: 20 },
  read: (text) => {
    const [, digits, unit] = /^(\d+(?:\.\d+)?) (\w+)$/.exec(text ?? '') ?? [];
    const strikeRange = STRIKE_RANGES.find((one) => one === unit);
    const rangeSize = Number(digits);
    return strikeRange && rangeSize > 0 && rangeSize <= 1000 ? { strikeRange, rangeSize } : range.usual;
  },
  write: ({ strikeRange, rangeSize }) => `${rangeSize} ${strikeRange}`,
};

type AnyParam = Param<unknown>;
const SINGLES = Object.entries(PARAMS) as [keyof Context, AnyParam][];
const TOGETHER = [expiry, pair, realized, range] as unknown as Param<Partial<Context>>[];

/** Those that a fresh start sets otherwise than an address that does not say them. */
const FRESH = SINGLES.filter(([, { fresh }]) => fresh !== undefined);

export const DEFAULT_CONTEXT: Context = Object.assign(
  Object.fromEntries(SINGLES.map(([key, { usual, fresh }]) => [key, fresh ?? usual])),
  ...TOGETHER.map(({ usual }) => usual),
) as Context;

/**
 * Reads the context from a query; what it does not say, or says wrongly, is as usual. A query that says nothing is that of a
 * fresh start.
 */
export function readContext(query: URLSearchParams): Context {
  const isFresh = query.size === 0;
  const symbol = PARAMS.symbol.read(query.get(PARAMS.symbol.name), null);
  const readOf = ({ name, read, fresh }: AnyParam) =>
    isFresh && fresh !== undefined ? fresh : read(query.get(name), symbol);
  return Object.assign(
    Object.fromEntries(SINGLES.map(([key, param]) => [key, readOf(param)])),
    ...TOGETHER.map(({ name, read }) => read(query.get(name), symbol)),
  ) as Context;
}

/** Writes the context as a query, `?` included; what is as usual is left out. */
export function writeContext(context: Context): string {
  const query = new URLSearchParams();
  const put = ({ name, usual, write }: AnyParam, value: unknown) => {
    const text = write(value);
    if (text !== null && text !== write(usual)) query.set(name, text);
  };
  for (const [key, param] of SINGLES) {
    // A contract is read from its expiry on.
    if (key === 'strike') put(expiry as AnyParam, context);
    put(param, context[key]);
  }
  for (const param of TOGETHER) put(param as AnyParam, context);
  if ([...query.keys()].every((name) => FRESH.some(([, param]) => param.name === name))) {
    // Nothing else is said: a query that says nothing is that of a fresh start.
    for (const [key, { name, fresh, write }] of FRESH) {
      if (context[key] === fresh) query.delete(name);
      else query.set(name, write(context[key]) ?? '');
    }
  }
  const text = query
    .toString()
    .replaceAll('%3A', ':')
    .replaceAll('%2C', ',')
    .replaceAll('%3B', ';')
    .replaceAll('%40', '@')
    .replaceAll('%3D', '=');
  return text ? `?${text}` : '';
}

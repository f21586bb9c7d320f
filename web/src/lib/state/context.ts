import {
  BASES,
  DRIFTS,
  ESTIMATOR_CODES,
  ESTIMATORS,
  GRID_QUANTITIES,
  PAIR_UNITS,
  SAMPLINGS,
  VOL_WINDOWS,
  type Basis,
  type Drift,
  type Estimator,
  type ExpiryClass,
  type GridQuantity,
  type ManualVol,
  type PairUnit,
} from '@umwelt/core';
import { expandColumns, shortColumns, USUAL, USUAL_COLUMNS } from '$lib/screen/columns';

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

export const COLUMN_SETS = ['quotes', 'greeks', 'all'] as const;
export type ColumnSet = (typeof COLUMN_SETS)[number];

/** Kinds of underlyings, as docs/formats.md has them. */
export const UNDERLYING_KINDS = ['index', 'etf', 'equity', 'future', 'fx'] as const;
export type UnderlyingKind = (typeof UNDERLYING_KINDS)[number];
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
  strike: number | null;
  side: 'call' | 'put' | null;
  /** Columns of the chain. */
  columns: ColumnSet;
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
  /** Expiries that the skew leaves out. */
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
}

export const DEFAULT_CONTEXT: Context = {
  symbol: null,
  asof: null,
  ghost: null,
  basis: 'curve',
  manual: { kind: 'vol', value: 0.2 },
  realizedBy: 'yang-zhang',
  realizedWindow: 20,
  pastLaw: 'lognormal',
  drift: 'forward',
  quotes: 'mid',
  expiry: null,
  strike: null,
  side: null,
  columns: 'quotes',
  axis: 'strike',
  sides: 'otm',
  scale: 'vol',
  isLog: false,
  hasMisses: false,
  beside: [],
  surface: 'skew',
  quantity: 'vol',
  form: 'heat',
  mapSide: 'call',
  isDifference: false,
  pairUnit: 'percent',
  pairSize: 5,
  panel: 'expiries',
  hasBand: false,
  classes: EXPIRY_CLASSES,
  reading: 'atm',
  layers: ['realized'],
  hidden: [],
  speed: 8,
  playStep: 'session',
  playSpan: 0,
  isLooping: false,
  show: USUAL_COLUMNS,
  keep: [],
  kinds: [],
  families: [],
  sort: 'iv30 / hv20.yz',
  wall: 'none',
  isShared: true,
  hasVolume: false,
  peerSessions: 120,
  isApart: false,
  isSameKind: false,
  history: 'path',
  implied: ['iv30'],
  estimators: ['yang-zhang'],
  window: 20,
  lower: 'gap',
  lookback: 252,
  span: 'held',
  since: null,
  announced: '',
  changes: '',
};

const DAY = /^\d{4}-\d\d-\d\d$/;

function oneOf<T extends string>(words: readonly T[], text: string | null, fallback: T): T {
  return words.find((word) => word === text) ?? fallback;
}

/** An empty list in an address. */
const NONE = 'none';

/** Those of the words that a list names, in their order; a list without any of them is as usual. */
function someOf<T extends string>(words: readonly T[], text: string | null, fallback: readonly T[]): readonly T[] {
  if (text === NONE) return [];
  const named = words.filter((word) => text?.split(',').includes(word));
  return named.length > 0 ? named : fallback;
}

/** A reading of the term structure: deltas between 1 and 50. */
export function readingOf(text: string | null): TermReading {
  const [, side, digits] = /^(put|call)(\d{1,2})$/.exec(text ?? '') ?? [];
  const delta = Number(digits);
  return side && delta >= 1 && delta <= 50 ? (`${side}${delta}` as TermReading) : 'atm';
}

/** The distance of a pair, such as `5 percent`: whole steps, less than all of the forward, no more than ten deviations. */
function readPair(text: string | null): Pick<Context, 'pairUnit' | 'pairSize'> {
  const [, digits, word] = /^(\d+(?:\.\d+)?) (\w+)$/.exec(text ?? '') ?? [];
  const pairUnit = PAIR_UNITS.find((unit) => unit === word);
  const pairSize = Number(digits);
  const isSense =
    pairUnit !== undefined &&
    pairSize > 0 &&
    pairSize <= { steps: 100, percent: 99, deviations: 10 }[pairUnit] &&
    (pairUnit !== 'steps' || Number.isInteger(pairSize));
  return isSense ? { pairUnit, pairSize } : { pairUnit: DEFAULT_CONTEXT.pairUnit, pairSize: DEFAULT_CONTEXT.pairSize };
}

function numberOf<T extends number>(numbers: readonly T[], text: string | null, fallback: T): T {
  return numbers.find((number) => String(number) === text) ?? fallback;
}

function moment(text: string | null): string | null {
  return text !== null && !Number.isNaN(Date.parse(text)) ? text : null;
}

function day(text: string | null): string | null {
  return text !== null && DAY.test(text) ? text : null;
}

/** Vols that can be typed, and by how much curves can be shifted: decimals. */
export const MOST_MANUAL = 5;
const MANUAL_DIGITS = 1e6;

/** A typed vol in points: `25` for all strikes, `shift2` for what is added to the curves. */
function readManual(text: string | null): ManualVol {
  const [, shift, digits] = /^(shift)?(-?\d+(?:\.\d+)?)$/.exec(text ?? '') ?? [];
  const value = Math.round(Number(digits) * (MANUAL_DIGITS / 100)) / MANUAL_DIGITS;
  const isSense = digits !== undefined && Math.abs(value) <= MOST_MANUAL && (shift !== undefined || value > 0);
  return isSense ? { kind: shift ? 'shift' : 'vol', value } : DEFAULT_CONTEXT.manual;
}

function writeManual({ kind, value }: ManualVol): string {
  return `${kind === 'shift' ? 'shift' : ''}${Math.round(value * MANUAL_DIGITS) / (MANUAL_DIGITS / 100)}`;
}

/** An estimator and a window: `yz20`, `yzexpiry`. */
function readRealized(text: string | null): Pick<Context, 'realizedBy' | 'realizedWindow'> {
  const usual = { realizedBy: DEFAULT_CONTEXT.realizedBy, realizedWindow: DEFAULT_CONTEXT.realizedWindow };
  const realizedBy = ESTIMATORS.find((name) => text?.startsWith(ESTIMATOR_CODES[name]) && restOf(text, name) !== null);
  return realizedBy ? { realizedBy, realizedWindow: restOf(text!, realizedBy)! } : usual;
}

function restOf(text: string, estimator: Estimator): Window | null {
  const rest = text.slice(ESTIMATOR_CODES[estimator].length);
  return WINDOWS.find((window) => rest === (window === 0 ? TO_EXPIRY : String(window))) ?? null;
}

function writeRealized({ realizedBy, realizedWindow }: Pick<Context, 'realizedBy' | 'realizedWindow'>): string {
  return `${ESTIMATOR_CODES[realizedBy]}${realizedWindow === 0 ? TO_EXPIRY : realizedWindow}`;
}

/** Reads the context from a query; what it does not say, or says wrongly, is as usual. */
export function readContext(query: URLSearchParams): Context {
  const strike = Number(query.get('strike') ?? NaN);
  const side = query.get('side');
  return {
    symbol: query.get('symbol') || null,
    asof: moment(query.get('asof')),
    ghost: moment(query.get('ghost')),
    basis: oneOf(BASES, query.get('basis'), DEFAULT_CONTEXT.basis),
    manual: readManual(query.get('manual')),
    ...readRealized(query.get('realized')),
    pastLaw: oneOf(PAST_LAWS, query.get('past'), DEFAULT_CONTEXT.pastLaw),
    drift: oneOf(DRIFTS, query.get('drift'), DEFAULT_CONTEXT.drift),
    quotes: oneOf(QUOTES, query.get('quotes'), DEFAULT_CONTEXT.quotes),
    expiry: day(query.get('expiry')),
    strike: Number.isFinite(strike) ? strike : null,
    side: side === 'call' || side === 'put' ? side : null,
    columns: oneOf(COLUMN_SETS, query.get('columns'), DEFAULT_CONTEXT.columns),
    axis: oneOf(AXES, query.get('axis'), DEFAULT_CONTEXT.axis),
    sides: oneOf(SKEW_SIDES, query.get('sides'), DEFAULT_CONTEXT.sides),
    scale: oneOf(SKEW_SCALES, query.get('scale'), DEFAULT_CONTEXT.scale),
    isLog: query.get('upright') === 'log',
    hasMisses: query.get('misses') === 'shown',
    beside: (query.get('beside') ?? '').split(',').filter(Boolean).slice(0, MOST_BESIDE),
    surface: oneOf(SURFACE_VIEWS, query.get('view'), DEFAULT_CONTEXT.surface),
    quantity: oneOf(GRID_QUANTITIES, query.get('of'), DEFAULT_CONTEXT.quantity),
    form: oneOf(MAP_FORMS, query.get('as'), DEFAULT_CONTEXT.form),
    mapSide: query.get('of-side') === 'put' ? 'put' : 'call',
    isDifference: query.get('less') === 'ghost',
    ...readPair(query.get('pair')),
    panel: oneOf(SURFACE_PANELS, query.get('panel'), DEFAULT_CONTEXT.panel),
    hasBand: query.get('band') === 'shown',
    classes: someOf(EXPIRY_CLASSES, query.get('classes'), DEFAULT_CONTEXT.classes),
    reading: readingOf(query.get('reading')),
    layers: someOf(TERM_LAYERS, query.get('layers'), DEFAULT_CONTEXT.layers),
    hidden: (query.get('hidden') ?? '').split(',').filter((text) => DAY.test(text)),
    show: readColumns(query.get('show')),
    keep: listOf(query.get('keep')).slice(0, MOST_CONDITIONS),
    kinds: someOf(UNDERLYING_KINDS, query.get('kinds'), []),
    families: listOf(query.get('families')),
    sort: query.get('sort') || DEFAULT_CONTEXT.sort,
    wall: oneOf(WALLS, query.get('wall'), DEFAULT_CONTEXT.wall),
    isShared: query.get('axes') !== 'own',
    hasVolume: query.get('foot') === 'volume',
    peerSessions: numberOf(PEER_SESSIONS, query.get('compared'), DEFAULT_CONTEXT.peerSessions),
    isApart: query.get('apart') === 'true',
    isSameKind: query.get('alike') === 'true',
    history: oneOf(HISTORY_VIEWS, query.get('picture'), DEFAULT_CONTEXT.history),
    implied: namedOf(IMPLIED_NAMES, query.get('iv'), DEFAULT_CONTEXT.implied),
    estimators: readEstimators(query.get('hv')),
    speed: numberOf(PLAY_SPEEDS, query.get('speed'), DEFAULT_CONTEXT.speed),
    playStep: oneOf(PLAY_STEPS, query.get('step'), DEFAULT_CONTEXT.playStep),
    playSpan: numberOf(PLAY_SPANS, query.get('play'), DEFAULT_CONTEXT.playSpan),
    isLooping: query.get('loop') === 'on',
    window: query.get('window') === TO_EXPIRY ? 0 : numberOf(VOL_WINDOWS, query.get('window'), DEFAULT_CONTEXT.window),
    lower: oneOf(LOWERS, query.get('below'), DEFAULT_CONTEXT.lower),
    lookback: numberOf(LOOKBACKS, query.get('lookback'), DEFAULT_CONTEXT.lookback),
    span: oneOf(SPANS, query.get('span'), DEFAULT_CONTEXT.span),
    since: day(query.get('since')),
    announced: query.get('announced') ?? '',
    changes: query.get('set') ?? '',
  };
}

const codesOf = (estimators: readonly Estimator[]) => estimators.map((name) => ESTIMATOR_CODES[name]).join();

/** What a list names, each once. */
function listOf(text: string | null): readonly string[] {
  const held = (text ?? '').split(BETWEEN).map((one) => one.trim());
  return [...new Set(held.filter(Boolean))];
}

/** Columns of the Universe; a list without any that makes sense is as usual. */
function readColumns(text: string | null): readonly string[] {
  const columns = expandColumns(listOf(text)).slice(0, MOST_COLUMNS);
  return columns.length > 0 ? columns : DEFAULT_CONTEXT.show;
}

/** Those of the words that a list names, in its own order; a list without any of them is as usual. */
function namedOf<T extends string>(words: readonly T[], text: string | null, fallback: readonly T[]): readonly T[] {
  const named = (text ?? '').split(',').flatMap((one) => words.find((word) => word === one) ?? []);
  return named.length > 0 ? [...new Set(named)] : fallback;
}

/** Estimators by their codes, in the order in which they are named; at least one. */
function readEstimators(text: string | null): readonly Estimator[] {
  const codes = namedOf(Object.values(ESTIMATOR_CODES), text, []);
  if (codes.length === 0) return DEFAULT_CONTEXT.estimators;
  return codes.map((code) => ESTIMATORS.find((name) => ESTIMATOR_CODES[name] === code)!);
}

/** Writes the context as a query, `?` included; what is as usual is left out. */
export function writeContext(context: Context): string {
  const query = new URLSearchParams();
  const put = (name: string, value: string | number | null, usual: string | number | null = null) => {
    if (value !== null && value !== usual) query.set(name, String(value));
  };
  put('symbol', context.symbol);
  put('asof', context.asof);
  put('ghost', context.ghost);
  put('basis', context.basis, DEFAULT_CONTEXT.basis);
  put('manual', writeManual(context.manual), writeManual(DEFAULT_CONTEXT.manual));
  put('realized', writeRealized(context), writeRealized(DEFAULT_CONTEXT));
  put('past', context.pastLaw, DEFAULT_CONTEXT.pastLaw);
  put('drift', context.drift, DEFAULT_CONTEXT.drift);
  put('quotes', context.quotes, DEFAULT_CONTEXT.quotes);
  put('expiry', context.expiry);
  put('strike', context.strike);
  put('side', context.side);
  put('columns', context.columns, DEFAULT_CONTEXT.columns);
  put('axis', context.axis, DEFAULT_CONTEXT.axis);
  put('sides', context.sides, DEFAULT_CONTEXT.sides);
  put('scale', context.scale, DEFAULT_CONTEXT.scale);
  put('upright', context.isLog ? 'log' : null);
  put('misses', context.hasMisses ? 'shown' : null);
  put('beside', context.beside.length > 0 ? context.beside.join(',') : null);
  put('view', context.surface, DEFAULT_CONTEXT.surface);
  put('of', context.quantity, DEFAULT_CONTEXT.quantity);
  put('as', context.form, DEFAULT_CONTEXT.form);
  put('of-side', context.mapSide, DEFAULT_CONTEXT.mapSide);
  put('less', context.isDifference ? 'ghost' : null);
  put('pair', `${context.pairSize} ${context.pairUnit}`, `${DEFAULT_CONTEXT.pairSize} ${DEFAULT_CONTEXT.pairUnit}`);
  put('panel', context.panel, DEFAULT_CONTEXT.panel);
  put('band', context.hasBand ? 'shown' : null);
  put('classes', context.classes.join(), DEFAULT_CONTEXT.classes.join());
  put('reading', context.reading, DEFAULT_CONTEXT.reading);
  put('layers', context.layers.join() || NONE, DEFAULT_CONTEXT.layers.join());
  put('hidden', context.hidden.length > 0 ? context.hidden.join(',') : null);
  put('speed', context.speed, DEFAULT_CONTEXT.speed);
  put('step', context.playStep, DEFAULT_CONTEXT.playStep);
  put('play', context.playSpan, DEFAULT_CONTEXT.playSpan);
  put('loop', context.isLooping ? 'on' : null);
  put('show', shortColumns(context.show).join(BETWEEN), USUAL);
  put('keep', context.keep.join(BETWEEN) || null);
  put('kinds', context.kinds.join() || null);
  put('families', context.families.join(BETWEEN) || null);
  put('sort', context.sort, DEFAULT_CONTEXT.sort);
  put('wall', context.wall, DEFAULT_CONTEXT.wall);
  put('axes', context.isShared ? null : 'own');
  put('foot', context.hasVolume ? 'volume' : null);
  put('compared', context.peerSessions, DEFAULT_CONTEXT.peerSessions);
  put('apart', context.isApart ? 'true' : null);
  put('alike', context.isSameKind ? 'true' : null);
  put('picture', context.history, DEFAULT_CONTEXT.history);
  put('iv', context.implied.join(), DEFAULT_CONTEXT.implied.join());
  put('hv', codesOf(context.estimators), codesOf(DEFAULT_CONTEXT.estimators));
  put('window', context.window === 0 ? TO_EXPIRY : context.window, DEFAULT_CONTEXT.window);
  put('below', context.lower, DEFAULT_CONTEXT.lower);
  put('lookback', context.lookback, DEFAULT_CONTEXT.lookback);
  put('span', context.span, DEFAULT_CONTEXT.span);
  put('since', context.since);
  put('announced', context.announced || null);
  put('set', context.changes, DEFAULT_CONTEXT.changes);
  const text = query
    .toString()
    .replaceAll('%3A', ':')
    .replaceAll('%2C', ',')
    .replaceAll('%3B', ';')
    .replaceAll('%3D', '=');
  return text ? `?${text}` : '';
}

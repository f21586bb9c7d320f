import { BASES, type Basis } from '@umwelt/core';

/** The quote that a contract's own vol is read from. */
export const QUOTES = ['mid', 'bid', 'ask'] as const;
export type QuoteSide = (typeof QUOTES)[number];

export const AXES = ['strike', 'forward', 'log', 'standardized', 'delta'] as const;
export type Axis = (typeof AXES)[number];

/** Which contracts the skew shows at each strike. */
export const SKEW_SIDES = ['otm', 'call', 'put', 'both'] as const;
export type SkewSides = (typeof SKEW_SIDES)[number];

/** What stands upright in the skew. */
export const SKEW_SCALES = ['vol', 'variance'] as const;
export type SkewScale = (typeof SKEW_SCALES)[number];

/** What the lower panel of the Surface shows. */
export const SURFACE_PANELS = ['expiries', 'density', 'arbitrage', 'aside'] as const;
export type SurfacePanel = (typeof SURFACE_PANELS)[number];

export const COLUMN_SETS = ['quotes', 'greeks', 'all'] as const;
export type ColumnSet = (typeof COLUMN_SETS)[number];

export const ESTIMATORS = ['yz', 'close', 'both'] as const;
export type Estimator = (typeof ESTIMATORS)[number];

export const WINDOWS = [10, 20, 60] as const;
export type Window = (typeof WINDOWS)[number];

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
  panel: SurfacePanel;
  /** Whether the term structure shows weekly expiries. */
  weeklies: boolean;
  /** Expiries that the skew leaves out. */
  hidden: readonly string[];
  estimator: Estimator;
  window: Window;
  /** What the Pricer changes of the contract in focus: `vol:0.25;days:30`. */
  changes: string;
  /** Whether History goes back over all bars, or only over the sessions with implied vols. */
  allBars: boolean;
}

export const DEFAULT_CONTEXT: Context = {
  symbol: null,
  asof: null,
  ghost: null,
  basis: 'curve',
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
  panel: 'expiries',
  weeklies: true,
  hidden: [],
  estimator: 'yz',
  window: 20,
  allBars: false,
  changes: '',
};

const DAY = /^\d{4}-\d\d-\d\d$/;

function oneOf<T extends string>(words: readonly T[], text: string | null, fallback: T): T {
  return words.find((word) => word === text) ?? fallback;
}

function moment(text: string | null): string | null {
  return text !== null && !Number.isNaN(Date.parse(text)) ? text : null;
}

function day(text: string | null): string | null {
  return text !== null && DAY.test(text) ? text : null;
}

/** Reads the context from a query; what it does not say, or says wrongly, is as usual. */
export function readContext(query: URLSearchParams): Context {
  const strike = Number(query.get('strike') ?? NaN);
  const side = query.get('side');
  const window = Number(query.get('window'));
  return {
    symbol: query.get('symbol') || null,
    asof: moment(query.get('asof')),
    ghost: moment(query.get('ghost')),
    basis: oneOf(BASES, query.get('basis'), DEFAULT_CONTEXT.basis),
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
    panel: oneOf(SURFACE_PANELS, query.get('panel'), DEFAULT_CONTEXT.panel),
    weeklies: query.get('weeklies') !== 'out',
    hidden: (query.get('hidden') ?? '').split(',').filter((text) => DAY.test(text)),
    estimator: oneOf(ESTIMATORS, query.get('hv'), DEFAULT_CONTEXT.estimator),
    window: WINDOWS.find((known) => known === window) ?? DEFAULT_CONTEXT.window,
    allBars: query.get('span') === 'bars',
    changes: query.get('set') ?? '',
  };
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
  put('panel', context.panel, DEFAULT_CONTEXT.panel);
  put('weeklies', context.weeklies ? null : 'out');
  put('hidden', context.hidden.length > 0 ? context.hidden.join(',') : null);
  put('hv', context.estimator, DEFAULT_CONTEXT.estimator);
  put('window', context.window, DEFAULT_CONTEXT.window);
  put('span', context.allBars ? 'bars' : null);
  put('set', context.changes, DEFAULT_CONTEXT.changes);
  const text = query
    .toString()
    .replaceAll('%3A', ':')
    .replaceAll('%2C', ',')
    .replaceAll('%3B', ';')
    .replaceAll('%3D', '=');
  return text ? `?${text}` : '';
}

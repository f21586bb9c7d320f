/** What the columns of a chain are; what stands in them is in cells.ts. */

interface ChainColumn {
  label: string;
  title: string;
  /** Least width in pixels. */
  width: number;
  /** Whether it is multiplied by contracts and their size. */
  isMoney?: boolean;
  /** Whether it is computed for the rows in view alone. */
  isHigher?: boolean;
}

const COLUMNS = {
  volume: { label: 'volume', width: 46, title: 'contracts traded in the session' },
  openInterest: { label: 'open', width: 48, title: 'contracts open' },
  bidSize: { label: 'bid size', width: 46, title: 'contracts bid for' },
  askSize: { label: 'ask size', width: 46, title: 'contracts offered' },
  last: { label: 'last', width: 52, title: 'price of the last trade' },
  bid: { label: 'bid', width: 52, title: 'best bid' },
  mid: { label: 'mid', width: 52, title: 'middle of bid and ask' },
  ask: { label: 'ask', width: 52, title: 'best ask' },
  vol: { label: 'IV', width: 36, title: 'implied vol of the quote in use, in points' },
  bidVol: { label: 'bid IV', width: 40, title: 'implied vol of the bid, in points' },
  midVol: { label: 'mid IV', width: 40, title: 'implied vol of the mid, in points' },
  askVol: { label: 'ask IV', width: 40, title: 'implied vol of the ask, in points' },
  basisVol: { label: 'vol', width: 36, title: 'vol of the basis in use, in points' },
  theory: { label: 'theory', width: 58, title: 'value on the basis in use; ▲ quote rich, ▼ quote cheap' },
  place: { label: 'place', width: 36, title: 'where theory lies between bid and ask' },
  edge: { label: 'edge', width: 48, title: 'mid less theory: what the quote is rich by', isMoney: true },
  edgeBid: { label: 'bid edge', width: 50, title: 'bid less theory: what is gained by selling to it', isMoney: true },
  edgeAsk: { label: 'ask edge', width: 50, title: 'theory less ask: what is gained by buying from it', isMoney: true },
  delta: { label: 'delta', width: 42, title: 'change of the price per unit of price', isMoney: true },
  gamma: { label: 'gamma', width: 54, title: 'change of delta per unit of price', isMoney: true },
  theta: { label: 'theta', width: 50, title: 'per calendar day', isMoney: true },
  vega: { label: 'vega', width: 46, title: 'per vol point', isMoney: true },
  rho: { label: 'rho', width: 46, title: 'per percentage point of the rate', isMoney: true },
  vanna: { label: 'vanna', width: 62, title: 'change of delta for a vol point', isMoney: true, isHigher: true },
  volga: { label: 'volga', width: 62, title: 'change of vega for a vol point', isMoney: true, isHigher: true },
  charm: { label: 'charm', width: 62, title: 'change of delta in a day', isMoney: true, isHigher: true },
  speed: { label: 'speed', width: 68, title: 'change of gamma per unit of price', isMoney: true, isHigher: true },
  color: { label: 'color', width: 68, title: 'change of gamma in a day', isMoney: true, isHigher: true },
  veta: { label: 'veta', width: 62, title: 'change of vega in a day', isMoney: true, isHigher: true },
  zomma: { label: 'zomma', width: 68, title: 'change of gamma for a vol point', isMoney: true, isHigher: true },
  itm: { label: 'itm %', width: 40, title: 'odds to end in the money, by the basis in use' },
  touch: { label: 'touch %', width: 44, title: 'odds that the price reaches the strike before expiry' },
  breakEven: { label: 'even %', width: 42, title: 'odds to end beyond strike ± mid' },
  intrinsic: { label: 'intrinsic', width: 54, title: 'worth if it were exercised now', isMoney: true },
  time: { label: 'time', width: 50, title: 'mid less intrinsic value', isMoney: true },
  carry: {
    label: 'carry %',
    width: 48,
    title: 'time value over the price of the underlying, as a year of simple interest',
  },
  cost: { label: 'cost', width: 58, title: 'mid for as many contracts as are set', isMoney: true },
  flag: { label: 'flag', width: 62, title: 'why the quote has no vol, or is set aside' },
} as const satisfies Record<string, ChainColumn>;

export type ChainColumnId = keyof typeof COLUMNS;
export const CHAIN_COLUMNS: Record<ChainColumnId, ChainColumn> = COLUMNS;
export const CHAIN_COLUMN_IDS = Object.keys(COLUMNS) as ChainColumnId[];

/** Width of the column of strikes. */
export const STRIKE_WIDTH = 72;

/** Built-in sets: columns from the edge of the table to the strikes, on the call side. */
export const CHAIN_SETS = {
  quotes: ['volume', 'openInterest', 'itm', 'delta', 'vol', 'theory', 'place', 'bid', 'ask'],
  greeks: ['itm', 'vega', 'theta', 'gamma', 'delta', 'vol', 'theory', 'mid'],
  odds: ['openInterest', 'delta', 'touch', 'breakEven', 'itm', 'vol', 'theory', 'bid', 'ask'],
  value: ['carry', 'time', 'intrinsic', 'edgeAsk', 'edgeBid', 'edge', 'theory', 'bid', 'mid', 'ask'],
  higher: ['zomma', 'veta', 'color', 'speed', 'charm', 'volga', 'vanna', 'delta', 'mid'],
  all: [
    ...['volume', 'openInterest', 'itm', 'vega', 'theta', 'gamma', 'delta', 'vol', 'theory', 'bid', 'mid', 'ask'],
  ] as ChainColumnId[],
} as const satisfies Record<string, readonly ChainColumnId[]>;

export type ChainSetName = keyof typeof CHAIN_SETS;
export const CHAIN_SET_NAMES = Object.keys(CHAIN_SETS) as ChainSetName[];

/** The name of the set that has just these columns; null of none. */
export function setOfColumns(columns: readonly ChainColumnId[]): ChainSetName | null {
  return CHAIN_SET_NAMES.find((name) => CHAIN_SETS[name].join() === columns.join()) ?? null;
}

const QUOTE_COLUMNS: readonly ChainColumnId[] = ['bid', 'mid', 'ask'];

/** The columns of the puts: mirrored, but bid, mid and ask keep their order. */
export function putColumns(calls: readonly ChainColumnId[]): ChainColumnId[] {
  const isQuote = (id: ChainColumnId) => QUOTE_COLUMNS.includes(id);
  return [...calls.filter(isQuote), ...calls.filter((id) => !isQuote(id)).reverse()];
}

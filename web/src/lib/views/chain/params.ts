import { TAPE_LEGS, TAPE_SIDES, type TapeLegs, type TapeSides } from '$lib/data/tape';
import { ODDS_KINDS, type OddsKind } from '@umwelt/core';
import { isExpiry } from '$lib/address';
import {
  defineParams,
  flag,
  namedOf,
  NONE,
  numberIn,
  oneOf,
  sizeOf,
  type Joint,
  type Param,
} from '$lib/address/params';
import { CHAIN_COLUMN_IDS, CHAIN_SET_NAMES, CHAIN_SETS, setOfColumns, type ChainColumnId } from '$lib/columns';

/** What quantities of the chain are for: a unit of the underlying, a contract, or so many contracts. */
export const UNITS = ['unit', 'contract', 'position'] as const;
export type Units = (typeof UNITS)[number];

/** How far from the forward strikes are listed: so many on each side, per cent of it, or deviations; all of them. */
export const STRIKE_RANGES = ['all', 'strikes', 'percent', 'deviations'] as const;
export type StrikeRange = (typeof STRIKE_RANGES)[number];

/** What stands under the chain. */
export const DRAWERS = ['none', 'target', 'theta', 'priced'] as const;
export type Drawer = (typeof DRAWERS)[number];
export const DRAWER_NAMES: Readonly<Record<Drawer, string>> = {
  none: 'Nothing',
  target: 'Target odds',
  theta: 'Theta board',
  priced: 'Kept structures',
};

export interface ChainParams {
  /** Columns from the edge to the strikes, on the side of the calls. */
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
  /** Whether strikes that meet the target are lit. */
  isTargeting: boolean;
  /** Odds that strikes are looked for by, per cent. */
  targetKind: OddsKind;
  target: number;
  /** Width of the spread whose credit is shown, in money; 0 for a single contract. */
  targetWidth: number;
  tapeLegs: TapeLegs;
  tapeSides: TapeSides;
  tapeSize: number;
}

/** The name of a set, or custom columns. */
const columns: Param<readonly ChainColumnId[]> = {
  name: 'columns',
  usual: CHAIN_SETS.quotes,
  read: (text) => {
    const set = CHAIN_SET_NAMES.find((one) => one === text);
    return set ? CHAIN_SETS[set] : namedOf('columns', CHAIN_COLUMN_IDS, CHAIN_SETS.quotes).read(text, null);
  },
  write: (value) => setOfColumns(value) ?? value.join(),
};

/** How far strikes are listed, such as `20 strikes`. */
const range: Joint<ChainParams> = {
  name: 'range',
  usual: { strikeRange: 'all', rangeSize: 20 },
  read: (text) => {
    const read = sizeOf(text, STRIKE_RANGES, () => 1000);
    return read ? { strikeRange: read.unit, rangeSize: read.size } : range.usual;
  },
  write: ({ strikeRange, rangeSize }) => `${rangeSize} ${strikeRange}`,
};

export const PARAMS = defineParams<ChainParams, 'strikeRange' | 'rangeSize'>(
  {
    columns,
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
  },
  { joint: [range], ofUnderlying: ['opened'] },
);

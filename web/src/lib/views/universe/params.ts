import { UNDERLYING_KINDS, type UnderlyingKind } from '@umwelt/core';
import { defineParams, flag, numberOf, oneOf, someOf, texts, word, type Param } from '$lib/address/params';
import { expandColumns, shortColumns, USUAL_COLUMNS } from '$lib/columns';

/** Separates formulas in an address: no formula contains it. */
const BETWEEN = '|';
/** Columns and conditions that are held at most. */
export const MOST_COLUMNS = 50;
export const MOST_CONDITIONS = 24;

/** What is shown: the table, peers of one, or a wall of what. */
export const WALLS = ['none', 'peers', 'vols', 'term', 'skew', 'cone', 'price'] as const;
export type Wall = (typeof WALLS)[number];

/** Sessions over which peers are compared. */
export const PEER_SESSIONS = [60, 120, 252] as const;
export type PeerSessions = (typeof PEER_SESSIONS)[number];

export interface UniverseParams {
  /** Columns in their order, by their keys, and conditions that leave underlyings out. */
  show: readonly string[];
  keep: readonly string[];
  /** Kinds and families that are shown; none means all. */
  kinds: readonly UnderlyingKind[];
  families: readonly string[];
  /** The column that the table is ordered by, with | rising behind it where it rises. */
  sort: string;
  wall: Wall;
  /** Whether the charts of the wall share their axes. */
  isShared: boolean;
  /** Whether vols have option volume under them. */
  hasVolume: boolean;
  /** Over how many sessions peers are compared. */
  peerSessions: PeerSessions;
  /** Whether peers of its own family are left out, and those of other kinds. */
  isApart: boolean;
  isSameKind: boolean;
}

/** Columns of the table; a list without any that makes sense takes its default. */
const show: Param<readonly string[]> = {
  name: 'show',
  usual: USUAL_COLUMNS,
  read: (text) => {
    const named = [...new Set((text ?? '').split(BETWEEN).map((one) => one.trim()))].filter(Boolean);
    const columns = expandColumns(named).slice(0, MOST_COLUMNS);
    return columns.length > 0 ? columns : USUAL_COLUMNS;
  },
  write: (value) => shortColumns(value).join(BETWEEN),
};

export const PARAMS = defineParams<UniverseParams>({
  show,
  keep: texts('keep', BETWEEN, MOST_CONDITIONS),
  kinds: { ...someOf('kinds', UNDERLYING_KINDS, []), write: (value) => value.join() || null },
  families: texts('families', BETWEEN),
  sort: word<string>('sort', 'iv30 / hv20.yz'),
  wall: oneOf('wall', WALLS, 'none'),
  // Addresses that do not say it are of the time when axes were shared unless chosen otherwise.
  isShared: { ...flag('axes', 'own', true), fresh: false },
  hasVolume: flag('foot', 'volume'),
  peerSessions: numberOf('compared', PEER_SESSIONS, 120),
  isApart: flag('apart', 'true'),
  isSameKind: flag('alike', 'true'),
});

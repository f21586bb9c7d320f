import { orNull, changesOf, impliedBeta, togetherOf, type Together } from '@umwelt/core';
import type { HeldColumns } from './held';
import { isoDay } from './days';
import type { HeldView } from './held-view';
import { USUAL_VOL } from './history';

/** What is said of each peer beside how it moves. */
const SHOWN = ['price', 'iv30', 'rank', USUAL_VOL, 'ivToHv', 'slope', 'rr25'] as const;
const STORED = ['price', 'iv30', 'slope', 'rr25', USUAL_VOL];
const RANK_SESSIONS = 252;
/** Fewer sessions in common say nothing. */
const LEAST_PAIRS = 20;

export interface PeersQuery {
  symbol: string;
  moment?: Date | undefined;
  /** Over how many sessions they are compared. */
  sessions: number;
  /** How many of them are given back. */
  count: number;
  /** Whether those of its own family are left out, and those of other kinds. */
  isApart: boolean;
  isSameKind: boolean;
}

interface Moving {
  returns: Float64Array;
  vols: Float64Array;
}

/** Closes by day as logarithms, and iv30 by day, of one underlying on the days of another. */
function movingOn(view: HeldView, row: number, days: ArrayLike<number>): Compared {
  const closes = view.closesOn(row, days);
  return { closes, returns: changesOf(closes.map(Math.log)), vols: changesOf(view.measureOn('iv30', row, days)) };
}

type Compared = Moving & { closes: Float64Array };

const known = ({ correlation, pairs }: Together) => (pairs >= LEAST_PAIRS ? correlation : NaN);

/** The mean of what is known. */
function meanOf(values: readonly number[]): number {
  const held = values.filter(Number.isFinite);
  return held.reduce((sum, value) => sum + value, 0) / held.length;
}

/**
 * Underlyings that move most like one of them, by the mean of the correlations of returns and of changes of iv30 over the
 * same sessions, one for each other family; with what they are worth beside it, their prices from 100 on, and how all of them move together.
 */
export async function peersOf(held: HeldColumns, { symbol, moment, sessions, count, isApart, isSameKind }: PeersQuery) {
  const view = await held.read(STORED, Math.max(RANK_SESSIONS, sessions + 1), { moment });
  const { underlyings } = view;
  const own = underlyings.findIndex((one) => one.symbol === symbol);
  const days = view.lastDays(own, sessions + 1);
  const reference = movingOn(view, own, days);
  const { family, kind } = underlyings[own]!;
  const isOfFamily = (row: number) => family !== null && underlyings[row]!.family === family;
  const others = [...underlyings.keys()].filter(
    (row) =>
      row !== own &&
      view.isListed(row) &&
      !(isApart && isOfFamily(row)) &&
      !(isSameKind && underlyings[row]!.kind !== kind),
  );
  const compared = others.map((row) => {
    const moving = movingOn(view, row, days);
    const returns = togetherOf(moving.returns, reference.returns);
    const vols = togetherOf(moving.vols, reference.vols);
    return { row, moving, returns, vols, closeness: meanOf([known(returns), known(vols)]) };
  });
  const ranked = compared
    .filter(({ closeness }) => Number.isFinite(closeness))
    .sort((a, b) => b.closeness - a.closeness);
  // Deliveries of one root move alike: another family is represented by its head, or else by its nearest.
  const headOf = new Map<string, number>();
  for (const { row } of ranked) {
    const { symbol: name, family: other } = underlyings[row]!;
    if (other !== null && !isOfFamily(row) && (name === other || !headOf.has(other))) headOf.set(other, row);
  }
  const nearest = ranked
    .filter(({ row }) => (headOf.get(underlyings[row]!.family ?? '') ?? row) === row)
    .slice(0, count);

  const valueOf = (row: number, name: (typeof SHOWN)[number]) => {
    if (name === 'rank') return view.rank('iv30', row, RANK_SESSIONS);
    if (name === 'ivToHv') return view.value('iv30', row) / view.value(USUAL_VOL, row);
    return view.value(name, row);
  };
  const measuresOf = (row: number) => SHOWN.map((name) => orNull(valueOf(row, name)));
  const all: { row: number; moving: Compared }[] = [{ row: own, moving: reference }, ...nearest];
  const table = (what: keyof Moving) =>
    all.map((a) => all.map((b) => orNull(known(togetherOf(a.moving[what], b.moving[what])))));
  return {
    symbol,
    sessions: Math.max(0, days.length - 1),
    measures: [...SHOWN],
    own: measuresOf(own),
    peers: nearest.map(({ row, returns, vols, closeness }) => ({
      symbol: underlyings[row]!.symbol,
      name: underlyings[row]!.name,
      kind: underlyings[row]!.kind,
      isSameKind: underlyings[row]!.kind === kind,
      isSameFamily: isOfFamily(row),
      closeness,
      returns: orNull(known(returns)),
      vols: orNull(known(vols)),
      pairs: returns.pairs,
      beta: orNull(returns.pairs >= LEAST_PAIRS ? returns.slope : NaN),
      impliedBeta: orNull(impliedBeta(known(returns), view.value('iv30', row), view.value('iv30', own))),
      measures: measuresOf(row),
    })),
    performance: {
      days: Array.from(days, (day) => isoDay(day)),
      lines: all.map(({ row, moving }) => ({ symbol: underlyings[row]!.symbol, values: rebased(moving.closes) })),
    },
    together: {
      symbols: all.map(({ row }) => underlyings[row]!.symbol),
      returns: table('returns'),
      vols: table('vols'),
    },
  };
}

/** Prices with the first that is known as 100. */
function rebased(closes: Float64Array): (number | null)[] {
  const first = closes.find(Number.isFinite) ?? NaN;
  return Array.from(closes, (close) => orNull((100 * close) / first));
}

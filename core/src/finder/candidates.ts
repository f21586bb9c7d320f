import { AcrossMeasures } from './across';
import { FINDER_KINDS, isWithin, type FinderKind } from './kinds';
import { makeAcross, MAKERS, type KindContract, type KindExpiry } from './makers';
import type { FinderAsked, FinderMarket } from './market';
import { TogetherMeasures } from './measure';
import { leftOutExpiry, readContracts, solveContracts, type SolvedMarket, type SolvedExpiry } from './solved';
import { makeTable, MOST_LEGS, type CandidateTable } from './table';

/** Candidates of an underlying, and what was left out before any was measured. */
export interface Candidates {
  readonly solved: SolvedMarket;
  readonly table: CandidateTable;
  /** Made beyond the limit of work, which are not measured. */
  readonly over: number;
  /** Expiries within the days that have no curve, or are set aside. */
  readonly expiriesOut: number;
  /** Quotes of the expiries in view that take no part. */
  readonly quotesOut: number;
}

/** Legs that are made, in arrays that grow. */
class Made {
  count = 0;
  over = 0;
  kind = new Uint8Array(START);
  legs = new Int32Array(START * MOST_LEGS);
  quantities = new Int8Array(START * MOST_LEGS);
  held = new Int8Array(START);
  expiry = new Int32Array(START);

  constructor(private readonly most: number) {}

  add(kind: number, expiry: number, legs: readonly number[], quantities: readonly number[], held: number): void {
    if (this.count >= this.most) {
      this.over++;
      return;
    }
    if (this.count === this.kind.length) this.grow();
    const at = this.count++;
    this.kind[at] = kind;
    this.expiry[at] = expiry;
    this.held[at] = held;
    for (let leg = 0; leg < MOST_LEGS; leg++) {
      this.legs[MOST_LEGS * at + leg] = legs[leg] ?? -1;
      this.quantities[MOST_LEGS * at + leg] = quantities[leg] ?? 0;
    }
  }

  private grow(): void {
    const grown = <Column extends Uint8Array | Int8Array | Int32Array>(column: Column): Column => {
      const larger = new (column.constructor as new (length: number) => Column)(2 * column.length);
      larger.set(column);
      return larger;
    };
    this.kind = grown(this.kind);
    this.legs = grown(this.legs);
    this.quantities = grown(this.quantities);
    this.held = grown(this.held);
    this.expiry = grown(this.expiry);
  }
}

const START = 4096;

/** The contracts of an expiry that take part, with what holds for its legs. */
function kindExpiry({ contracts, asked }: SolvedMarket, { first, strikes, fit, deviation }: SolvedExpiry): KindExpiry {
  const { delta, odds, deviations, width, wing } = asked.legs;
  const sideFrom = (base: number): KindContract[] =>
    Array.from(strikes, (strike, i) => ({ id: base + i, strike }))
      .filter(({ id }) => contracts.isUsed[id] === 1)
      .map(({ id, strike }) => ({
        ...{ id, strike },
        isWithin:
          isWithin(contracts.forwardDelta[id]!, delta) &&
          isWithin(contracts.itm[id]!, odds) &&
          isWithin(Math.abs(contracts.deviations[id]!), deviations),
      }));
  const isFree = width === undefined && wing === undefined;
  return {
    calls: sideFrom(first),
    puts: sideFrom(first + strikes.length),
    isWide: (lower, upper) =>
      isFree || (isWithin(upper - lower, width) && isWithin((upper - lower) / (fit.forward * deviation), wing)),
  };
}

function makeAll(solved: SolvedMarket): Made {
  const { asked, expiries } = solved;
  const made = new Made(asked.most);
  const isIndex = solved.market.around.on.kind === 'index';
  const lists = expiries.map((expiry) => kindExpiry(solved, expiry));
  // Expiry by expiry, so that a limit of work leaves the far ones out.
  expiries.forEach((near, place) => {
    for (const kind of asked.kinds) {
      // An index cannot be held: its fund and its futures can.
      if (isIndex && HOLDING.has(kind)) continue;
      const at = FINDER_KINDS.indexOf(kind);
      if (!isAcross(kind)) {
        MAKERS[kind](lists[place]!, (legs, quantities, held = 0) => made.add(at, place, legs, quantities, held));
        continue;
      }
      expiries.forEach((far, other) => {
        const gap = far.fit.days - near.fit.days;
        if (!(gap > 0) || gap < asked.gap[0] || gap > asked.gap[1]) return;
        makeAcross(kind, lists[place]!, lists[other]!, (sold, bought) =>
          made.add(at, place, [sold, bought], [-1, 1], 0),
        );
      });
    }
  });
  return made;
}

/** Kinds that hold the underlying. */
const HOLDING: ReadonlySet<FinderKind> = new Set(['covered-call', 'collar']);

const isAcross = (kind: FinderKind): kind is 'calendar' | 'diagonal' => kind === 'calendar' || kind === 'diagonal';
const ACROSS = new Set(FINDER_KINDS.flatMap((kind, i) => (isAcross(kind) ? [i] : [])));

/**
 * All structures of some kinds on an underlying that are within limits, with their measures.
 *
 * @param isShared whether the table lies in memory that threads share
 */
export function findCandidates(market: FinderMarket, asked: FinderAsked, isShared = false): Candidates {
  const solved = readContracts(market, asked);
  const made = makeAll(solved);
  const { count } = made;
  const isWanted = new Uint8Array(solved.contracts.count);
  for (let i = 0; i < MOST_LEGS * count; i++) if (made.legs[i]! >= 0) isWanted[made.legs[i]!] = 1;
  solveContracts(solved, isWanted);
  const table = makeTable(count, isShared);
  table.kind.set(made.kind.subarray(0, count));
  table.legs.set(made.legs.subarray(0, MOST_LEGS * count));
  table.quantities.set(made.quantities.subarray(0, MOST_LEGS * count));
  table.held.set(made.held.subarray(0, count));
  table.expiry.set(made.expiry.subarray(0, count));
  const together = new TogetherMeasures(solved, table);
  const across = new AcrossMeasures(solved, table);
  for (let at = 0; at < count; at++) (ACROSS.has(table.kind[at]!) ? across : together).measure(at);
  const within = market.slices.map((slice) => leftOutExpiry(slice, asked));
  return {
    ...{ solved, table, over: made.over },
    expiriesOut: within.filter((why) => why === 'no curve' || why === 'set aside').length,
    quotesOut: quotesOutOf(solved),
  };
}

/** Contracts that are quoted in some way, and take no part. */
function quotesOutOf({ market, expiries, contracts }: SolvedMarket): number {
  let count = 0;
  for (const { at, first, strikes } of expiries) {
    const { call, put } = market.slices[at]!;
    for (let i = 0; i < strikes.length; i++)
      for (const [quotes, id] of [
        [call, first + i],
        [put, first + strikes.length + i],
      ] as const)
        if (contracts.isUsed[id] !== 1 && (Number.isFinite(quotes.bid[i]!) || Number.isFinite(quotes.ask[i]!))) count++;
  }
  return count;
}

import { isUnderlying } from '../contracts';
import { EXPLAINED_PARTS, explainContract, type ExplainedMethod } from './explained';
import { positionAt, type BookFill, type LedgerFacts, type LedgerLeg, type PositionState } from './ledger';
import type { MarketAt } from './market';

/** What profit is made of: changes of the market, trades with their fees, and what no curve explains. */
export const PROFIT_PARTS = [...EXPLAINED_PARTS, 'fills', 'rest'] as const;
export type ProfitPart = (typeof PROFIT_PARTS)[number];
export type ProfitParts = Record<ProfitPart, number>;

/** A moment at which a position is looked at, with the markets of then. */
export interface LivedMoment {
  readonly instant: number;
  readonly marketOf: (symbol: string) => MarketAt | null;
}

/** What a leg is worth: its mid where it has a market, else its curve; or its curve always. */
export type LivedBy = 'mid' | 'curve';

/** Parts with what the Greeks say of them; in the currency of the contract. */
export interface LivedParts {
  inTurn: ProfitParts;
  byGreeks: ProfitParts;
  /** Of the Greeks: what two changes do together. */
  cross: number;
  /** What of the price is delta, and what gamma. */
  delta: number;
  gamma: number;
  change: number;
}

/** A stretch between two moments, leg by leg. */
export interface LivedStretch {
  readonly from: number;
  readonly to: number;
  readonly legs: readonly (LivedParts & { readonly leg: LedgerLeg })[];
}

export const noParts = (): ProfitParts =>
  Object.fromEntries(PROFIT_PARTS.map((name) => [name, 0])) as Record<ProfitPart, number>;

const nothing = (): LivedParts => ({
  ...{ inTurn: noParts(), byGreeks: noParts(), cross: 0, delta: 0, gamma: 0, change: 0 },
});

/** What a leg is worth at a moment, in money; NaN where that is not known. */
export function legWorth(leg: LedgerLeg, market: MarketAt | null, by: LivedBy): number {
  if (leg.lots.length === 0) return 0;
  if (leg.isAwaiting || !market) return NaN;
  const quantity = Number(leg.quantity);
  return quantity * Number(leg.multiplier) * market.worth(leg.contract, quantity, by);
}

/** Adds parts to others. */
export function addParts(to: LivedParts, from: LivedParts): void {
  for (const name of PROFIT_PARTS) {
    to.inTurn[name] += from.inTurn[name];
    to.byGreeks[name] += from.byGreeks[name];
  }
  for (const name of ['cross', 'delta', 'gamma', 'change'] as const) to[name] += from[name];
}

/** The sum of some parts. */
export function sumParts(all: readonly LivedParts[]): LivedParts {
  const sum = nothing();
  for (const one of all) addParts(sum, one);
  return sum;
}

interface Moment extends LivedMoment {
  readonly state: PositionState;
}

/**
 * What a position has lived through, stretch by stretch: what the market did to what was held when a stretch began, what was traded in
 * it (from its price to what it is worth when the stretch ends), and what no curve explains. Parts and the rest sum to the change.
 *
 * @param fills those of the position
 * @param moments in order of time; trades between two of them count to the later one
 */
export function livedThrough(
  fills: readonly BookFill[],
  facts: LedgerFacts,
  moments: readonly LivedMoment[],
  by: LivedBy,
  method: ExplainedMethod = 'turn',
): LivedStretch[] {
  const known = moments.map((moment): Moment => ({ ...moment, state: positionAt(fills, facts, moment.instant) }));
  return known.slice(1).map((to, i) => {
    const from = known[i]!;
    return {
      from: from.instant,
      to: to.instant,
      legs: to.state.legs.map((leg) => ({ leg, ...legStretch(leg, from, to, facts, by, method) })),
    };
  });
}

function legStretch(
  leg: LedgerLeg,
  from: Moment,
  to: Moment,
  facts: LedgerFacts,
  by: LivedBy,
  method: ExplainedMethod,
): LivedParts {
  const parts = nothing();
  const { symbol } = leg.contract;
  const before = from.state.legs.filter(({ ids }) => ids.some((id) => leg.ids.includes(id)));
  const [first] = before;
  const [marketThen, marketNow] = [from.marketOf(symbol), to.marketOf(symbol)];
  const flowed = Number(leg.flowed) - before.reduce((sum, one) => sum + Number(one.flowed), 0);
  const worthThen = before.reduce((sum, one) => sum + legWorth(one, marketThen, by), 0);
  const worthNow = legWorth(leg, marketNow, by);
  parts.change = flowed + worthNow - worthThen;
  const units = first ? Number(first.quantity) * Number(first.multiplier) : 0;
  // Where terms have changed on the way, or two contracts have become one, curves of then say nothing of now.
  const isSame = before.length === 1 && !hasNewTerms(facts, symbol, from.instant, to.instant);
  if (units === 0 || !isSame || !marketThen) {
    const name = units === 0 ? 'fills' : 'rest';
    parts.inTurn[name] = parts.byGreeks[name] = parts.change;
    return parts;
  }
  const { contract } = leg;
  const end = isUnderlying(contract) ? Infinity : facts.endOf(contract);
  const settled = !isUnderlying(contract) && end <= to.instant ? facts.settledAt(contract) : null;
  const explained = settled
    ? explainContract(contract, marketThen, { settledAt: Number(settled) }, method)
    : marketNow && explainContract(contract, marketThen, marketNow, method);
  if (!explained) {
    parts.inTurn.rest = parts.byGreeks.rest = parts.change;
    return parts;
  }
  for (const name of EXPLAINED_PARTS) {
    parts.inTurn[name] = units * explained.inTurn[name];
    parts.byGreeks[name] = units * explained.byGreeks[name];
  }
  parts.cross = units * explained.cross;
  parts.delta = units * explained.delta;
  parts.gamma = units * explained.gamma;
  // What was held at the begin, carried on at what it is worth at the end; everything else was traded.
  const unitNow = settled ? inside(leg, Number(settled)) : unitWorth(leg, marketNow, by);
  const carried = units * unitNow - worthThen;
  const cash = cashOfUnderlying(leg, from, to);
  parts.inTurn.carry += cash;
  parts.byGreeks.carry += cash;
  const traded = parts.change - carried - cash;
  parts.inTurn.fills = parts.byGreeks.fills = Math.abs(traded) < DUST * Math.abs(units * unitNow) ? 0 : traded;
  const said = sumOf(parts.inTurn);
  parts.inTurn.rest = parts.change - said;
  parts.byGreeks.rest = parts.change - sumOf(parts.byGreeks) - parts.cross;
  return parts;
}

/** What sums of products leave where nothing was traded. */
const DUST = 1e-12;

const sumOf = (parts: ProfitParts): number =>
  PROFIT_PARTS.reduce((sum, name) => (name === 'rest' ? sum : sum + parts[name]), 0);

/** Whether contracts have come into other terms between two moments. */
function hasNewTerms(facts: LedgerFacts, symbol: string, from: number, to: number): boolean {
  return facts.changesOf(symbol).some(({ kind, time }) => kind !== 'cash' && time > from && time <= to);
}

/** What the underlying has paid to who held it. */
function cashOfUnderlying(leg: LedgerLeg, from: Moment, to: Moment): number {
  if (!isUnderlying(leg.contract)) return 0;
  return to.state.flows
    .filter(({ kind, time }) => kind === 'dividend' && time > from.instant && time <= to.instant)
    .reduce((sum, { amount }) => sum + Number(amount), 0);
}

function inside({ contract }: LedgerLeg, price: number): number {
  if (isUnderlying(contract)) return price;
  return Math.max(0, (contract.side === 'call' ? 1 : -1) * (price - contract.strike));
}

/** What one unit is worth, of a leg that may be closed by then. */
function unitWorth({ contract }: LedgerLeg, market: MarketAt | null, by: LivedBy): number {
  return market ? market.worth(contract, 0, by) : NaN;
}

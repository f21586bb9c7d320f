import {
  eachOf,
  expiryName,
  neutralize,
  neutralizeWhole,
  UNDERLYING_ID,
  type Hedge,
  type HedgeInstrument,
  type HedgeQuantity,
  type LegReactions,
  type NamedExpiry,
  type HedgeRefused,
  type MarketLegValues,
  type NamedLeg,
  type PlacedLeg,
  type OptionId,
  type ProfitCurveColumns,
} from '@umwelt/core';
import { figures, shortName, type Sentence } from '$lib/formats';
import { expiryOf, type Amounts, type Choice, type Count, type Greek, type Target } from './params';

/** A contract to hedge with: what is known of one unit of it. */
export interface Instrument {
  leg: PlacedLeg;
  words: string;
  /** By what it is known among the trades. */
  id: string;
  values: MarketLegValues;
  reactions: LegReactions;
  openInterest: number;
}

export const idOf = ({ expiry, settlement, strike, side }: OptionId | NamedLeg) =>
  `${expiry}${settlement ?? 'pm'} ${strike} ${side}`;

/** So much of each target. */
export type Exposure = Readonly<Record<Target, number>>;

/** What one unit of a contract has of a target. */
export function unitOf(
  target: Target,
  leg: NamedExpiry,
  values: MarketLegValues,
  { skew }: Pick<LegReactions, 'skew'>,
): number {
  if (target === 'skew') return skew;
  const expiry = expiryOf(target);
  if (expiry === null) return values[target as Greek];
  return expiryName({ ...leg, settlement: leg.settlement ?? 'pm' }) === expiry ? values.vega : 0;
}

/** A target in words: 17 Apr vega. */
export const targetWords = (target: Target): string => {
  const expiry = expiryOf(target);
  return expiry === null ? target : `${shortName(expiry)} vega`;
};

/** Half of what is between bid and ask. */
export const halfSpread = ({ bid, ask }: Pick<MarketLegValues, 'bid' | 'ask'>) => 0.5 * (ask - bid);

export interface PlanAsked {
  /** Of the position, by what can be brought to a number. */
  exposure: Exposure;
  /** What the position changes by at the places that {@link LegReactions} are told of; null where it is not known. */
  changes: Float64Array | null;
  /** And by how much a unit of the underlying does. */
  moves: Float64Array | null;
  aims: Amounts;
  wanted: readonly Target[];
  instruments: readonly Instrument[];
  /** Units of the underlying that one contract is on, and one lot of the underlying itself. */
  multiplier: number;
  lot: number;
  count: Count;
  choice: Choice;
}

/** What is to be traded, or why nothing can be. */
export interface Plan extends Hedge<Target> {
  /** In quantities that leave nothing. */
  exact: Hedge<Target>;
  /** The largest share that is left of a Greek, rounded to whole contracts alone and with those around them looked at. */
  leftRounded: number;
  leftFound: number;
}

/**
 * How unsteady a hedge leaves the profit: the sum of its squared changes over the places, with the underlying that brings delta to
 * nothing where that is wanted.
 */
function unsteadiness({ exposure, changes, moves, wanted, aims, instruments, multiplier }: PlanAsked) {
  if (!changes || !moves) return undefined;
  const byId = new Map(instruments.map((one) => [one.id, one]));
  return (options: readonly HedgeQuantity[]) => {
    const left = changes.slice();
    let delta = exposure.delta - (aims.delta ?? 0);
    for (const { id, quantity } of options) {
      const { values, reactions } = byId.get(id)!;
      const units = quantity * multiplier;
      delta += units * values.delta;
      reactions.changes.forEach((change, i) => (left[i]! += units * change));
    }
    const held = wanted.includes('delta') ? -delta : 0;
    return left.reduce((sum, change, i) => sum + (change + held * moves[i]!) ** 2, 0);
  };
}

/** Contracts that bring an exposure to what is aimed at. */
export function planOf(asked: PlanAsked): Plan | HedgeRefused {
  const { exposure, aims, wanted, instruments, multiplier, lot, count, choice } = asked;
  const targets = Object.keys(exposure) as Target[];
  const ofEach = (of: (target: Target) => number) => eachOf(targets, of);
  const least = choice === 'steadiest' ? unsteadiness(asked) : undefined;
  const request = {
    exposure: ofEach((name) => exposure[name]! - (wanted.includes(name) ? (aims[name] ?? 0) : 0)),
    instruments: [
      ...instruments.map(({ id, leg, values, reactions }): HedgeInstrument<Target> => ({
        ...ofEach((name) => unitOf(name, leg, values, reactions) * multiplier),
        id,
        // What has no quote on both sides is the last to be taken.
        cost:
          choice !== 'cheapest' ? 1 : Number.isFinite(halfSpread(values)) ? halfSpread(values) + Number.EPSILON : 1e9,
      })),
      { ...ofEach((name) => (name === 'delta' ? lot : 0)), id: UNDERLYING_ID },
    ],
    neutralize: wanted,
    ...(least && { least }),
  };
  const found = count === 'whole' ? neutralizeWhole(request) : exactly(neutralize({ ...request, whole: false }));
  if ('refused' in found) return found;
  const { steps } = found.found;
  // What is left is told of the exposure itself, not of what is over the aims.
  let left = { ...exposure };
  const told = steps.map((step) => {
    left = ofEach((name) => left[name]! + step.position[name]!);
    return { ...step, cumulative: left };
  });
  const { exact, leftRounded, leftFound } = found;
  return { steps: told, residual: left, exact, leftRounded, leftFound };
}

function exactly(hedge: Hedge<Target> | HedgeRefused) {
  return 'refused' in hedge ? hedge : { found: hedge, exact: hedge, leftRounded: 0, leftFound: 0 };
}

/** Prices around another between which a Greek stays in a band: its column told along ascending prices; null where it is out at once. */
export function stayWithin(
  x: Float64Array,
  column: Float64Array,
  price: number,
  { aim, band }: { aim: number; band: number },
): { from: number | null; to: number | null } | null {
  const over = (i: number) => Math.abs(column[i]! - aim) - band;
  let at = x.findIndex((one) => one >= price);
  if (at < 0) return null;
  if (at > 0 && price - x[at - 1]! < x[at]! - price) at--;
  if (over(at) > 0) return null;
  const edge = (by: 1 | -1): number | null => {
    for (let i = at; i + by >= 0 && i + by < x.length; i += by) {
      const [here, there] = [over(i), over(i + by)];
      if (there > 0) return x[i]! + ((x[i + by]! - x[i]!) * -here) / (there - here);
    }
    return null;
  };
  return { from: edge(-1), to: edge(1) };
}

/** Less than that is what rounding leaves. */
const NOTHING = 5e-6;

/** As many digits as say something of an amount. */
export function amount(value: number): string {
  const size = Math.abs(value);
  if (size < NOTHING) return '0';
  return figures.signed(value, size >= 1000 ? 0 : size >= 10 ? 1 : size >= 0.1 ? 3 : 5);
}

/** A Greek of a structure along the price, times the units of the position. */
export const columnOf = (curve: ProfitCurveColumns, name: 'pnl' | 'delta', times: number) =>
  curve[name].map((value) => value * times);

/** What is done and what it leaves, in a sentence. */
export function planSentence(
  plan: Plan,
  nameOf: (id: string) => string,
  wanted: readonly Target[],
  count: Count,
): Sentence {
  const { steps, residual, exact, leftRounded, leftFound } = plan;
  const digits = count === 'whole' ? 0 : 2;
  const trades = steps.map(({ id, quantity }) => `${figures.signed(quantity, digits)} ${nameOf(id)}`);
  const left = wanted.map((name) => `${amount(residual[name]!)} of ${targetWords(name)}`).join(', ');
  const lead = trades.length > 0 ? `${trades.join(', ')}:` : 'Nothing is to be traded:';
  if (count === 'exact') return { lead, rest: `${left} is left.` };
  const exactly = exact.steps.map(({ quantity }) => figures.signed(quantity, 2)).join(', ');
  const saved =
    leftRounded > leftFound
      ? ` Rounding alone would leave ${figures.percent(leftRounded)} of what is to go, these leave ${figures.percent(leftFound)}.`
      : '';
  return { lead, rest: `${left} is left. ${exactly ? `Exact would be ${exactly}.` : ''}${saved}` };
}

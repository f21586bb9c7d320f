import type { WrittenOn } from '../chain';
import { DAYS_PER_YEAR } from '../models';
import { ContractThen, type ContractValue, type PastContract } from './contract-then';

/** What is known of a structure over some moments, in order of time. */
export interface HedgedPast {
  readonly on: Pick<WrittenOn, 'kind' | 'exercise'>;
  /** Milliseconds since 1970. */
  readonly instant: Float64Array;
  /** Ordinals of their sessions. */
  readonly session: Int32Array;
  readonly price: Float64Array;
  /** Cash that a unit of the underlying paid between the moment before and this one. */
  readonly paid: Float64Array;
  /** A forecast of vol that could be made at each moment. */
  readonly forecast: Float64Array;
  readonly legs: readonly { readonly quantity: number; readonly contract: PastContract }[];
  /** Of the underlying, in the structure itself. */
  readonly held: number;
}

/** When the underlying is traded: at every moment, at the last of each session, or when delta has left a band. */
export type HedgeWhen = 'moment' | 'session' | { readonly band: number };
/** By which vol a contract's delta is told: its own, that of its strike on the curve, a forecast, or one for all. */
export type HedgeBy = 'own' | 'curve' | 'forecast' | { readonly vol: number };

export interface HedgeRule {
  readonly when: HedgeWhen;
  readonly by: HedgeBy;
  /** What the structure is worth: by its mids, where there is a market, or by the curve. */
  readonly worth: 'mid' | 'curve';
  /** Of trading the underlying, as a share of its price. */
  readonly cost: number;
  /** How much of the half spreads is paid at the entry: 1 at worst, 0 at the mid, −1 at best. */
  readonly slippage: number;
}

/** What a stretch between two moments brought, by what brought it. */
export interface HedgedParts {
  /** ½ Γ (ΔS)²: what the move earned. */
  gamma: number;
  /** −½ Γ S² σ² Δt: what time takes for it. With gamma it is ½ Γ S² ((ΔS/S)² − σ² Δt). */
  theta: number;
  /** Vega times the change of the vols. */
  vega: number;
  /** What was not hedged: delta and hedge together, times the move. */
  delta: number;
  /** Interest of the contracts less that on what was paid, and what the hedge earned and owed. */
  carry: number;
  /** Of trading the underlying, and of entering at other than what it was worth. */
  cost: number;
  /** Whatever is left: terms of higher order, and quotes that are not of one curve. */
  rest: number;
}

export const HEDGED_PARTS = [
  'gamma',
  'theta',
  'vega',
  'delta',
  'carry',
  'cost',
  'rest',
] as const satisfies readonly (keyof HedgedParts)[];

/** A moment of the history, after what was traded at it. Parts and profit are sums since the entry. */
export interface HedgedStep extends HedgedParts {
  /** Position among the moments. */
  at: number;
  instant: number;
  price: number;
  value: number;
  /** Of the structure, by the vol in use. */
  structureDelta: number;
  /** Of the underlying that is held against it. */
  hedge: number;
  /** Vol of the structure, weighted by vega. */
  vol: number;
  profit: number;
  /** The same without any hedge. */
  unhedged: number;
}

export interface HedgedHistory {
  steps: HedgedStep[];
  /** Moments of the span at which something of a contract was not known. */
  skipped: number;
  /** Moments at which a leg that was to be worth its mid had no market, and was worth its curve. */
  byCurve: number;
  /** How often the underlying was traded, after the first time. */
  trades: number;
  /** Whether it was followed to its first expiry. */
  hasEnded: boolean;
  /** Vol at the entry, weighted by vega, and what the price then did, both a year. */
  implied: number;
  realized: number;
  /** Vega at the entry times realized less implied: what they alone would have said. */
  expected: number;
}

/** A structure at a moment. */
interface Moment {
  at: number;
  price: number;
  /** By what it is worth, and what its entry costs over that. */
  value: number;
  spread: number;
  /** Of the vols that it is worth, by which the stretch to the next is explained. */
  delta: number;
  gamma: number;
  theta: number;
  legs: readonly ContractValue[];
  /** By the vol that the rule hedges with. */
  hedgeDelta: number;
  /** Σ Γ σ² over the legs. */
  gammaVariance: number;
  rate: number;
  /** A year, beside cash that is known. */
  carryYield: number;
  hasEnded: boolean;
  /** Whether a leg that was to be worth its mid has none. */
  isByCurve: boolean;
}

const LEAST_YEARS = 1e-9;

/** What a structure is at a moment; null where something of it is not known. */
function momentOf(past: HedgedPast, rule: HedgeRule, at: number): Moment | null {
  const price = past.price[at]!;
  if (!(price > 0)) return null;
  const { by, worth } = rule;
  const { held } = past;
  const moment = {
    value: held * price,
    spread: 0,
    delta: held,
    gamma: 0,
    theta: 0,
    hedgeDelta: held,
    gammaVariance: 0,
  };
  const legs: ContractValue[] = [];
  let [rate, carryYield, hasEnded, isByCurve] = [0, 0, false, false];
  for (const { quantity, contract } of past.legs) {
    const { sign, strike, bid, ask } = contract;
    const years = contract.years[at]!;
    if (years <= LEAST_YEARS) {
      const value = Math.max(0, sign * (price - strike));
      legs.push({ value, delta: 0, gamma: 0, theta: 0, vega: 0, vol: NaN });
      moment.value += quantity * value;
      hasEnded = true;
      continue;
    }
    if (!(contract.forward[at]! > 0)) return null;
    const then = new ContractThen({ ...past.on, spot: price }, contract, at);
    const curve = contract.curveVol[at]!;
    const quoted = worth === 'mid' || by === 'own' ? then.ownVol() : NaN;
    const own = quoted > 0 ? quoted : curve;
    if (worth === 'mid' && !(quoted > 0)) isByCurve = true;
    const vol = worth === 'mid' ? own : curve;
    const hedgeVol = typeof by === 'object' ? by.vol : { own, curve, forecast: past.forecast[at]! }[by];
    if (!(vol > 0 && hedgeVol > 0)) return null;
    const one = then.at(vol);
    legs.push(one);
    moment.value += quantity * one.value;
    moment.spread += 0.5 * Math.abs(quantity) * (ask[at]! - bid[at]!);
    moment.delta += quantity * one.delta;
    moment.gamma += quantity * one.gamma;
    moment.theta += quantity * one.theta;
    moment.gammaVariance += quantity * one.gamma * vol * vol;
    moment.hedgeDelta += quantity * (hedgeVol === vol ? one.delta : then.at(hedgeVol).delta);
    rate = contract.rate[at]!;
    ({ carryYield } = then);
  }
  return { at, price, ...moment, legs, rate, carryYield, hasEnded, isByCurve };
}

/** Mean vol of the legs, weighted by what a point of it moves. */
function volOf({ legs }: Moment, quantities: readonly number[]): number {
  let [sum, weight] = [0, 0];
  legs.forEach(({ vol, vega }, i) => {
    if (!(vega > 0)) return;
    sum += Math.abs(quantities[i]!) * vega * vol;
    weight += Math.abs(quantities[i]!) * vega;
  });
  return sum / weight;
}

/** Whether the hedge is set anew at a moment. */
function isDue({ when }: HedgeRule, { session }: HedgedPast, moment: Moment, next: number, hedge: number): boolean {
  if (when === 'moment') return true;
  if (when === 'session') return session[moment.at] !== session[next];
  return Math.abs(moment.hedgeDelta + hedge) > when.band;
}

/**
 * What hedging a structure would have brought: entered at the first moment at which all of it is known, its delta kept at
 * nothing by the underlying as the rule says, until its first expiry or the last moment. For one structure, per unit of the
 * underlying. Interest is paid on whatever is put into structure and hedge, at the rate of the first leg's expiry; a unit of the
 * underlying pays the cash that is known, and otherwise the yield that its forward has. A stretch is explained by the
 * Greeks at its begin: what is left over is its rest (after P. Carr, "FAQ's in option pricing theory", 1999, from memory: a
 * hedged position earns ½ Γ S² (realized less implied variance) a year).
 *
 * @param past moments from the entry on
 * @returns null where no two moments are known
 */
export function hedgedHistory(past: HedgedPast, rule: HedgeRule): HedgedHistory | null {
  const quantities = past.legs.map(({ quantity }) => quantity);
  const count = past.instant.length;
  const { kind } = past.on;
  const isFuture = kind === 'future';
  // Of shares and funds the cash is known; of others their forward alone tells.
  const isYielding = kind === 'index' || kind === 'fx';
  const steps: HedgedStep[] = [];
  const sums: HedgedParts = { gamma: 0, theta: 0, vega: 0, delta: 0, carry: 0, cost: 0, rest: 0 };
  let [before, first]: [Moment | null, Moment | null] = [null, null];
  let [hedge, profit, unhedged, trades, skipped, byCurve, paid] = [0, 0, 0, 0, 0, 0, 0];
  let [squares, years] = [0, 0];
  for (let at = 0; at < count; at++) {
    paid += past.paid[at]!;
    const moment = momentOf(past, rule, at);
    if (!moment) {
      // What ends later is not quoted when the first of them settles: it is followed to the moment before.
      if (first && past.legs.some(({ contract }) => contract.years[at]! <= LEAST_YEARS)) break;
      if (first) skipped++;
      continue;
    }
    if (moment.isByCurve) byCurve++;
    if (before) {
      const span = (past.instant[at]! - past.instant[before.at]!) / YEAR_MS;
      const move = moment.price - before.price + paid;
      const change = moment.value - before.value + past.held * paid;
      const interest = Math.expm1(before.rate * span);
      const yielded = isYielding ? before.price * Math.expm1(before.carryYield * span) : 0;
      // A future takes no money, in the structure or against it.
      const lentUnhedged = before.value - (isFuture ? past.held * before.price : 0);
      const lent = lentUnhedged + (isFuture ? 0 : hedge * before.price);
      const carry = (hedge + past.held) * yielded - lent * interest;
      const vega = before.legs.reduce((sum, one, i) => {
        const change = moment.legs[i]!.vol - one.vol;
        return sum + (Number.isFinite(change) ? 100 * quantities[i]! * one.vega * change : 0);
      }, 0);
      const theta = -0.5 * before.gammaVariance * before.price ** 2 * span;
      const found = {
        gamma: 0.5 * before.gamma * move * move,
        theta,
        vega,
        delta: (before.delta + hedge) * move,
        // What theta has beside the rent of gamma is interest, as what was lent has.
        carry: carry + before.theta * span * DAYS_PER_YEAR - theta,
      };
      const total = change + hedge * move + carry;
      for (const name of NAMED) sums[name] += found[name];
      sums.rest += total - NAMED.reduce((sum, name) => sum + found[name], 0);
      profit += total;
      unhedged += change - lentUnhedged * interest + past.held * yielded;
      squares += Math.log(moment.price / (moment.price - move)) ** 2;
      years += span;
    } else {
      const entered = rule.slippage === 0 ? 0 : rule.slippage * moment.spread;
      // Without a quote nobody knows the spread.
      const cost = Number.isFinite(entered) ? entered : 0;
      sums.cost -= cost;
      profit -= cost;
      unhedged -= cost;
      first = moment;
    }
    const isLast = moment.hasEnded || at === count - 1;
    if (moment.hasEnded || (!isLast && (!before || isDue(rule, past, moment, at + 1, hedge)))) {
      const wanted = moment.hasEnded ? 0 : -moment.hedgeDelta;
      const cost = rule.cost * moment.price * Math.abs(wanted - hedge);
      if (before && wanted !== hedge) trades++;
      hedge = wanted;
      sums.cost -= cost;
      profit -= cost;
    }
    steps.push({
      ...sums,
      ...{ at, instant: past.instant[at]!, price: moment.price, value: moment.value },
      ...{ structureDelta: moment.hedgeDelta, hedge, vol: volOf(moment, quantities), profit, unhedged },
    });
    before = moment;
    paid = 0;
    if (isLast) break;
  }
  if (!first || steps.length < 2) return null;
  const implied = volOf(first, quantities);
  const realized = Math.sqrt(squares / years);
  const vega = first.legs.reduce((sum, one, i) => sum + quantities[i]! * one.vega, 0);
  return {
    ...{ steps, skipped, byCurve, trades, hasEnded: before!.hasEnded, implied, realized },
    expected: 100 * vega * (realized - implied),
  };
}

/** Parts that are told; the rest is what they leave. */
const NAMED = ['gamma', 'theta', 'vega', 'delta', 'carry'] as const;
const YEAR_MS = DAYS_PER_YEAR * 86_400_000;

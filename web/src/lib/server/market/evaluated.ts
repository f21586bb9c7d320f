import {
  curvesOnMarket,
  Deliveries,
  drawPaths,
  evaluateOnMarket,
  expiryAt,
  expiryTerms,
  halfOnTheWay,
  eventVariances,
  impliedColumns,
  inOwnTerms,
  instantAfter,
  pricesAround,
  sideOf,
  thirds,
  unmoved,
  walkPaths,
  writtenOn,
  yearsBetween,
  type BasisChoice,
  type CashDividend,
  type Delivery,
  type ListedSlice,
  type MarketLeg,
  type MarketStructure,
  type PastBars,
  type PlacedLeg,
  type ProfitCurveColumns,
  type WrittenOn,
} from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '../../api';
import type { StoredSnapshot } from './queries';
import { fittedSlices } from './rows';
import type { Underlying } from './terms';

type Asked = z.infer<typeof schemas.MarketEvaluateRequest>;
type Answer = z.infer<typeof schemas.MarketEvaluateResponse>;

/** A structure to be evaluated, with all that is held for it. */
export interface EvaluatedTask {
  kind: 'structure';
  underlying: Underlying;
  stored: StoredSnapshot;
  asked: Asked;
  /** Of the legs that are options, where they are listed: among the expiries of the delivery that they name. */
  placed: readonly (PlacedLeg | null)[];
  /** Other deliveries that legs name. */
  deliveries: readonly StoredSnapshot[];
  choice: BasisChoice;
  /** Moments of announcements. */
  events: readonly number[];
  dividends: readonly CashDividend[];
  /** What past moves are drawn from. */
  bars: PastBars;
}

/** Where the price of a market leads its forwards from. */
function spotOf({ snapshot }: StoredSnapshot, slices: readonly ListedSlice[], on: WrittenOn): number {
  return snapshot.price > 0 ? snapshot.price : expiryTerms(on, slices[0]!.fit).spot;
}

/** The structure that is asked for, per unit of its underlying, and the ratio of each leg's price to that in view. */
function structureOf(task: EvaluatedTask): { structure: MarketStructure; ratios: number[] } {
  const { underlying, stored, asked, placed, choice, dividends, bars } = task;
  const { asof } = stored.snapshot;
  const years = (instant: number) => yearsBetween(asof, instant);
  const ownSlices = fittedSlices(stored);
  const on = writtenOn(stored.snapshot, underlying);
  const spot = spotOf(stored, ownSlices, on);
  const others = task.deliveries.map((other): Delivery => {
    const listed = fittedSlices(other);
    const ratio = spotOf(other, listed, writtenOn(other.snapshot, underlying)) / spot;
    return { symbol: other.snapshot.symbol, ratio, slices: listed };
  });
  const market = new Deliveries(ownSlices, others);
  const { slices } = market;
  const ratios = asked.legs.map(({ symbol }) => market.ratioOf(symbol));
  const { scenario } = asked;
  const shifted = scenario.volShifts.flatMap(({ expiry, settlement = null, shift }) => {
    const at = expiryAt(slices, { expiry, settlement });
    return at < 0 ? [] : [[slices[at]!.fit.years, shift] as const];
  });
  const legs = asked.legs.map(({ quantity, entry }, i): MarketLeg => {
    const leg = placed[i];
    if (leg) return market.leg(leg, entry);
    const ratio = ratios[i]!;
    return {
      underlying: true,
      quantity: (quantity * ratio) / underlying.multiplier,
      entry: entry === undefined ? undefined : entry / ratio,
    };
  });
  const structure: MarketStructure = {
    slices,
    around: {
      ...{ on, spot, dividends },
      events: eventVariances(
        ownSlices.map(({ fit }) => fit),
        task.events.map(years),
      ),
    },
    legs,
    ownVols: legs.map((leg) => {
      if ('underlying' in leg) return NaN;
      const slice = slices[leg.slice]!;
      const sign = leg.side === 'call' ? 1 : -1;
      return impliedColumns(slice.strike, sideOf(slice, leg.side), slice.fit, sign, on).mid[leg.index]!;
    }),
    ...{ fill: asked.fill, fee: asked.fee / underlying.multiplier, choice },
    scenario: {
      ...unmoved(scenario.price ?? spot * (1 + (scenario.pricePercent ?? 0))),
      elapsed: scenario.at === undefined ? 0 : years(Date.parse(scenario.at)),
      ...{ volShift: scenario.volShift, volScale: scenario.volScale, volShifts: new Map(shifted) },
      ...{ skewShift: scenario.skewShift, rateShift: scenario.rateShift },
      ...{ dynamics: scenario.dynamics, hasEvents: scenario.events },
    },
    walk: walkPaths(bars, { sampling: 'stretches', drift: 'forward' }),
    past: ({ sessions }, share, start) =>
      drawPaths(bars, { sessions: Math.round(sessions * share), start, sampling: 'stretches', drift: 'forward' }),
  };
  return { structure, ratios };
}

const finiteOrNull = (value: number) => (Number.isFinite(value) ? value : null);

/** What is known of a structure on its market, as the API writes it. */
export function evaluatedAnswer(task: EvaluatedTask): Answer {
  const { underlying, stored, asked } = task;
  const { asof } = stored.snapshot;
  const { structure, ratios } = structureOf(task);
  const { scenario, around } = structure;
  const found = evaluateOnMarket(structure);
  const { profile, values, horizon, entry, deviation } = found;
  const { elapsed } = scenario;
  const prices = asked.prices ? Float64Array.from(asked.prices) : pricesAround(scenario.price, deviation);
  const moments = asked.moments?.map((at) => yearsBetween(asof, Date.parse(at))) ?? thirds(elapsed, horizon ?? elapsed);
  const instantAt = (years: number) => new Date(instantAfter(asof, years)).toISOString();
  const curves = curvesOnMarket(structure, entry, prices, moments);
  const { value, ...greeks } = values;
  const pointAt =
    ({ pnl, delta, gamma, theta, vega }: ProfitCurveColumns) =>
    (price: number, i: number) => ({
      ...{ price, pnl: pnl[i]!, delta: delta[i]!, gamma: gamma[i]!, theta: theta[i]!, vega: vega[i]! },
    });
  const { maxProfit, maxLoss } = profile;
  return {
    asof: new Date(asof).toISOString(),
    price: around.spot,
    multiplier: underlying.multiplier,
    cost: found.cost,
    fees: found.fees,
    ...{ entry, value },
    horizon: horizon === null ? null : instantAt(horizon),
    ...{ maxProfit: finiteOrNull(maxProfit), maxLoss: finiteOrNull(maxLoss) },
    unlimited: { profit: maxProfit === Infinity, loss: maxLoss === Infinity },
    breakEvens: profile.breakEvens,
    capitalAtRisk: found.capitalAtRisk,
    returnOnRisk: finiteOrNull(maxProfit / found.capitalAtRisk),
    greeks,
    ...{ skew: found.skew, curvature: found.curvature, volBought: found.volBought, volSold: found.volSold },
    legs: found.legs.map((values, i) => {
      const { value: theory, bid, ask, ...leg } = inOwnTerms(values, ratios[i]!);
      const { quantity, symbol } = asked.legs[i]!;
      const placed = task.placed[i];
      const what = placed
        ? { expiry: placed.expiry, settlement: placed.settlement, strike: placed.strike, side: placed.side }
        : { underlying: true as const };
      return {
        ...(symbol !== undefined && { symbol }),
        ...what,
        quantity,
        bid,
        ask,
        mid: 0.5 * (bid + ask),
        theory,
        ...leg,
      };
    }),
    odds: found.odds,
    half: halfOnTheWay(structure, entry, maxProfit),
    stress: found.stress,
    curves: curves.map((curve, i) => ({ moment: instantAt(moments[i]!), points: Array.from(prices, pointAt(curve)) })),
    notes: notesOf(task, structure, found),
  };
}

/** What is to be known of the numbers, in sentences. */
function notesOf(
  { asked, placed, deliveries }: EvaluatedTask,
  { around }: MarketStructure,
  { legs, profile, entry, assignments }: ReturnType<typeof evaluateOnMarket>,
): string[] {
  const notes: string[] = [];
  if (deliveries.length > 0) {
    notes.push(
      'deliveries move by equal returns: break-evens, odds and Greeks of all are by the price of the one in the address, those of a leg by its own',
    );
  }
  legs.forEach(({ enteredBy }, i) => {
    const leg = placed[i];
    if (enteredBy === 'theory' && leg) {
      notes.push(
        `the ${leg.strike} ${leg.side} of ${leg.expiry} has no quote: it is entered at its theory, and its fills are not known`,
      );
    }
  });
  for (const { leg: at, earns, amount, timeValue } of assignments) {
    const leg = placed[at];
    if (leg)
      notes.push(
        `the sold ${leg.strike} ${leg.side} of ${leg.expiry} may be assigned early: its time value of ${timeValue.toFixed(4)} is less than the ${earns} of ${amount.toFixed(4)} that exercising earns`,
      );
  }
  const isPaid = legs.length > 0 && profile.maxLoss === 0 && profile.maxProfit > 0;
  if (isPaid) {
    notes.push(`it cannot lose at its entry of ${entry.toFixed(4)}: an arbitrage, or a stale quote`);
  }
  if (asked.scenario.events && around.events.length > 0) {
    notes.push(
      'announcements take their variance with them as their moments pass; events: false lets all of it pass with time',
    );
  }
  return notes;
}

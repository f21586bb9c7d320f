import type { BasisOdds, EarlyAssignment, MarketEvaluation } from '@umwelt/core';
import { figures, zoneWords, type Sentence } from '$lib/formats';

/** Prices between which something is gained, in words. */
function rangeWords(gains: MarketEvaluation['profile']['gains'], decimals: number): string {
  const zones = gains.map(({ from, to }) => ({ from: from > 0 ? from : null, to: to < Infinity ? to : null }));
  return zones.map((zone) => zoneWords(zone, decimals)).join(' and ');
}

/** Odds of a basis. */
export function oddsOf({ odds }: MarketEvaluation, basis: BasisOdds['basis']): BasisOdds | undefined {
  return odds.find((one) => one.basis === basis);
}

/**
 * What a structure is and lives on, in a sentence.
 *
 * @param digits decimals of amounts, `decimals` those of prices
 */
export function structureSentence(
  found: MarketEvaluation,
  { times, digits, decimals }: { times: number; digits: number; decimals: number },
): Sentence {
  const { entry, profile, values, capitalAtRisk } = found;
  const money = (value: number) => figures.fixed(value * times, digits);
  const paid = entry > 0 ? `Costs ${money(entry)}` : entry < 0 ? `Takes in ${money(-entry)}` : 'Costs nothing';
  const risk =
    profile.maxLoss === Infinity
      ? `loses without an end (${money(capitalAtRisk)} in the worst cell of the stress)`
      : `risks ${money(profile.maxLoss)}`;
  const where = profile.gains.length > 0 ? `gains ${rangeWords(profile.gains, decimals)}` : 'gains nowhere';
  const by = (['curve', 'past'] as const).flatMap((basis) => {
    const odds = oddsOf(found, basis);
    return odds && Number.isFinite(odds.profit)
      ? [`${figures.percent(odds.profit, 0)} by ${basis === 'curve' ? 'the curve' : 'past moves'}`]
      : [];
  });
  // What is less than one of the money is still something.
  const small = (value: number) => {
    const amount = Math.abs(value * times);
    return figures.fixed(amount, amount < 1 ? digits + 2 : digits);
  };
  const vol = `a point of vol ${values.vega < 0 ? 'costs' : 'brings'} ${small(values.vega)}`;
  const day = `a day ${values.theta < 0 ? 'costs' : 'brings'} ${small(values.theta)}`;
  const free =
    profile.maxLoss === 0 && profile.maxProfit > 0 ? ' It cannot lose: an arbitrage, or a quote that is stale.' : '';
  return {
    lead: `${paid} and ${risk}:`,
    rest: `${where}${by.length > 0 ? ` (${by.join(', ')})` : ''}; ${vol}, ${day}.${free}`,
  };
}

/** Why a sold leg may be assigned before it expires. @param decimals of prices */
export function assignmentWords({ earns, amount, timeValue }: EarlyAssignment, decimals: number): string {
  const what = earns === 'dividend' ? 'the next dividend' : 'the interest until it expires';
  return `may be assigned early: exercising earns ${what}, ${figures.fixed(amount, decimals)}, and gives up ${figures.fixed(timeValue, decimals)} of time value`;
}

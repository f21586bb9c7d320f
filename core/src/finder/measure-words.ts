import { EDGE_PARTS, EDGES, type EdgeName, type EdgePart, type FinderMeasure, type PlainMeasure } from './measures';

const PLAIN: Readonly<Record<PlainMeasure, string>> = {
  days: 'to its first expiry, calendar days',
  cost: 'what it is entered at by the chosen fill, with the fees; negative where money is taken in',
  worst: 'bought at the ask, sold at the bid',
  mid: 'at the middle',
  best: 'bought at the bid, sold at the ask',
  width: 'the widest distance of a wing, or of its two strikes',
  maxProfit: 'at the first expiry; infinite where it has no end',
  maxLoss: 'at the first expiry, positive; infinite where it has no end',
  capital: 'at risk: the most that can be lost, or the worst cell of the stress where that has no end',
  rewardToRisk: 'most to gain over most to lose',
  returnOnRisk: 'most to gain over the capital at risk',
  annualized: 'that of a year, as simple interest',
  'evens.lower': 'the lowest break-even; none where it gains all the way down',
  'evens.upper': 'the highest one',
  evenDeviations: 'deviations from the forward to the nearest break-even',
  probabilityOfProfit: 'by the law of the curve',
  'odds.past': 'of a profit, by past moves',
  'odds.ownVol': 'of a profit, by one vol of one’s own',
  touch: 'odds that a sold strike is met on the way, by the curve',
  shortDelta: 'the largest delta on the forward of a sold leg, absolute; of all legs where none is sold',
  'greeks.delta': 'by the price',
  'greeks.gamma': 'twice by the price',
  'greeks.theta': 'a calendar day',
  'greeks.vega': 'a vol point',
  thetaPerVega: 'a day over a point of vol, whichever way that goes',
  costPerDelta: 'what is paid over the delta that it brings',
  volSpread: 'mean vol of what is sold less that of what is bought, weighted by vega',
  skew: 'for a point of the 25-delta risk reversal',
  curvature: 'for a point of the 25-delta butterfly',
  stress: 'the loss of its worst cell, positive',
  spread: 'from best to worst fill',
  spreadShare: 'that over the middle',
  'weakest.openInterest': 'of the leg with the least',
  'weakest.volume': 'of the leg with the least',
  'weakest.quality': 'of the expiry with the least, 0…100',
  announcements: 'in its life',
};

const EDGE_WORDS: Readonly<Record<EdgeName, string>> = {
  curve: 'by the curve, each contract without the say of its own strike',
  past: 'by past moves of the same length',
  ownVol: 'by a vol of one’s own',
  peers: 'by the curve that the expiry borrows',
};
const PART_WORDS: Readonly<Record<EdgePart, string>> = {
  money: 'worth less what it is entered at',
  ofRisk: 'over the capital at risk',
  volPoints: 'over its vega, where legs do not cancel it',
  error: 'one standard error, in money',
};

/** What each measure is. Amounts are per unit of the underlying. */
export const FINDER_MEASURES = {
  ...PLAIN,
  ...Object.fromEntries(
    EDGES.flatMap((edge) =>
      EDGE_PARTS.map((part) => [`edges.${edge}.${part}`, `edge ${EDGE_WORDS[edge]}: ${PART_WORDS[part]}`]),
    ),
  ),
} as Readonly<Record<FinderMeasure, string>>;

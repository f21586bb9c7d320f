/** Laws that an edge may be held to. */
export const EDGES = ['curve', 'past', 'ownVol', 'peers'] as const;
export type EdgeName = (typeof EDGES)[number];
/** What is told of each. */
export const EDGE_PARTS = ['money', 'ofRisk', 'volPoints', 'error'] as const;
export type EdgePart = (typeof EDGE_PARTS)[number];

/** What is told of a candidate beside its edges. */
const PLAIN = [
  'days',
  'cost',
  'worst',
  'mid',
  'best',
  'width',
  'maxProfit',
  'maxLoss',
  'capital',
  'rewardToRisk',
  'returnOnRisk',
  'annualized',
  'evens.lower',
  'evens.upper',
  'evenDeviations',
  'probabilityOfProfit',
  'odds.past',
  'odds.ownVol',
  'touch',
  'shortDelta',
  'greeks.delta',
  'greeks.gamma',
  'greeks.theta',
  'greeks.vega',
  'thetaPerVega',
  'costPerDelta',
  'volSpread',
  'skew',
  'curvature',
  'stress',
  'spread',
  'spreadShare',
  'weakest.openInterest',
  'weakest.volume',
  'weakest.quality',
  'announcements',
] as const;
export type PlainMeasure = (typeof PLAIN)[number];

/** Measures of a candidate, by the path that they have in a row; `measure-words.ts` says what each is. */
export type FinderMeasure = PlainMeasure | `edges.${EdgeName}.${EdgePart}`;

/** All of them in their order. */
export const MEASURE_KEYS: readonly FinderMeasure[] = [
  ...PLAIN,
  ...EDGES.flatMap((edge) => EDGE_PARTS.map((part): FinderMeasure => `edges.${edge}.${part}`)),
];

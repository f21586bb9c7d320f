import { FINDER_MEASURES, type FinderKind, type FinderMeasure } from '@umwelt/core';
import { figures } from '$lib/formats';

/** How a measure is told: its name, as what it is read, and in how many digits. */
export interface Told {
  label: string;
  /** Per cent of a share, money, a plain number, a count, or points of vol. */
  as: 'percent' | 'money' | 'number' | 'count' | 'vol' | 'days';
  decimals: number;
  isSigned?: boolean;
}

const told = (label: string, as: Told['as'], decimals: number, isSigned = false): Told => ({
  ...{ label, as, decimals, isSigned },
});

const EDGE_LABELS = { curve: 'curve', past: 'past', ownVol: 'own vol', peers: 'peers' } as const;
const EDGE_PARTS = {
  money: ['', 'money', 2],
  ofRisk: [', % of risk', 'percent', 1],
  volPoints: [', vol points', 'number', 2],
  error: [', error', 'money', 2],
} as const;

export const TOLD = {
  days: told('days', 'days', 0),
  cost: told('cost', 'money', 2, true),
  worst: told('cost, worst', 'money', 2, true),
  mid: told('cost, mid', 'money', 2, true),
  best: told('cost, best', 'money', 2, true),
  width: told('width', 'money', 2),
  maxProfit: told('most to gain', 'money', 2),
  maxLoss: told('most to lose', 'money', 2),
  capital: told('risk', 'money', 2),
  rewardToRisk: told('reward to risk', 'number', 2),
  returnOnRisk: told('return on risk', 'percent', 0),
  annualized: told('return, yearly', 'percent', 0),
  'evens.lower': told('lowest even', 'money', 2),
  'evens.upper': told('highest even', 'money', 2),
  evenDeviations: told('nearest even, dev.', 'number', 2),
  probabilityOfProfit: told('odds, curve', 'percent', 1),
  'odds.past': told('odds, past', 'percent', 1),
  'odds.ownVol': told('odds, own vol', 'percent', 1),
  touch: told('touch', 'percent', 1),
  shortDelta: told('short delta', 'number', 2),
  'greeks.delta': told('delta', 'number', 3, true),
  'greeks.gamma': told('gamma', 'number', 4, true),
  'greeks.theta': told('theta', 'number', 3, true),
  'greeks.vega': told('vega', 'number', 3, true),
  thetaPerVega: told('theta per vega', 'number', 3, true),
  costPerDelta: told('cost per delta', 'number', 2, true),
  volSpread: told('vol sold less bought', 'vol', 1, true),
  skew: told('skew', 'number', 3, true),
  curvature: told('curvature', 'number', 3, true),
  stress: told('stress loss', 'money', 2),
  spread: told('market width', 'money', 2),
  spreadShare: told('width of mid', 'percent', 1),
  'weakest.openInterest': told('open, weakest leg', 'count', 0),
  'weakest.volume': told('volume, weakest leg', 'count', 0),
  'weakest.quality': told('quality', 'number', 0),
  announcements: told('announcements', 'count', 0),
  ...Object.fromEntries(
    (['curve', 'past', 'ownVol', 'peers'] as const).flatMap((edge) =>
      (['money', 'ofRisk', 'volPoints', 'error'] as const).map((part) => {
        const [words, as, decimals] = EDGE_PARTS[part];
        return [`edges.${edge}.${part}`, told(`edge, ${EDGE_LABELS[edge]}${words}`, as, decimals, part !== 'error')];
      }),
    ),
  ),
} as Readonly<Record<FinderMeasure, Told>>;

/** What a measure is, in a sentence. */
export const titleOf = (measure: FinderMeasure): string => FINDER_MEASURES[measure];

/** A measure in figures; infinite where it has no end. */
export function written(measure: FinderMeasure, value: number, times = 1): string {
  const { as, decimals, isSigned } = TOLD[measure];
  if (value === Infinity) return '∞';
  switch (as) {
    case 'percent':
      return isSigned ? signedPercent(value, decimals) : figures.percent(value, decimals);
    case 'count':
      return figures.count(value);
    case 'days':
      return figures.fixed(value, 0);
    case 'vol':
      return figures.signed(100 * value, decimals);
    case 'money':
      return isSigned ? figures.signed(value * times, decimals) : figures.fixed(value * times, decimals);
    default:
      return isSigned ? figures.signed(value, decimals) : figures.fixed(value, decimals);
  }
}

const signedPercent = (value: number, decimals: number) =>
  Number.isNaN(value) ? figures.NOTHING : `${figures.signed(100 * value, decimals)} %`;

/** The step by which a limit of a measure is dragged, between its ends. */
export function stepOf(measure: FinderMeasure, from: number, to: number): number {
  const { as } = TOLD[measure];
  if (as === 'days' || as === 'count') return 1;
  // Limits are typed in hundredths; what is dragged is no coarser.
  const rough = (to - from) / 200;
  return rough > 0 ? Math.min(0.01, 10 ** Math.floor(Math.log10(rough))) : 0.01;
}

/** Kinds as people say them. */
export const KIND_WORDS: Readonly<Record<FinderKind, string>> = {
  call: 'call',
  put: 'put',
  'vertical-credit': 'credit vertical',
  'vertical-debit': 'debit vertical',
  straddle: 'straddle',
  strangle: 'strangle',
  butterfly: 'butterfly',
  'broken-wing': 'broken wing',
  condor: 'condor',
  'iron-condor': 'iron condor',
  'iron-butterfly': 'iron fly',
  calendar: 'calendar',
  diagonal: 'diagonal',
  ratio: 'ratio',
  backspread: 'backspread',
  'risk-reversal': 'risk reversal',
  'covered-call': 'covered call',
  collar: 'collar',
  'secured-put': 'secured put',
};

/** The same where there is little room. */
export const KIND_SHORT: Readonly<Partial<Record<FinderKind, string>>> = {
  'vertical-credit': 'credit',
  'vertical-debit': 'debit',
  'broken-wing': 'broken w.',
  'iron-condor': 'iron cond.',
  backspread: 'backspr.',
  'risk-reversal': 'risk rev.',
  'covered-call': 'cov. call',
  'secured-put': 'sec. put',
};

/** Payoffs as small pictures: points across and down a box of 40 by 18. */
export const KIND_PICTURES: Readonly<Record<FinderKind, string>> = {
  call: '0,14 18,14 40,2',
  put: '0,2 22,14 40,14',
  'vertical-credit': '0,15 14,15 26,4 40,4',
  'vertical-debit': '0,4 14,4 26,15 40,15',
  straddle: '0,3 20,15 40,3',
  strangle: '0,3 13,15 27,15 40,3',
  butterfly: '0,14 10,14 20,2 30,14 40,14',
  'broken-wing': '0,8 12,8 20,2 34,16 40,16',
  condor: '0,14 8,14 15,4 25,4 32,14 40,14',
  'iron-condor': '0,15 6,15 14,4 26,4 34,15 40,15',
  'iron-butterfly': '0,15 6,15 20,2 34,15 40,15',
  calendar: '0,14 8,13 14,10 20,3 26,10 32,13 40,14',
  diagonal: '0,14 8,13 14,10 22,3 30,7 40,9',
  ratio: '0,11 14,11 22,3 40,17',
  backspread: '0,9 14,9 22,16 40,2',
  'risk-reversal': '0,17 14,9 26,9 40,1',
  'covered-call': '0,17 22,4 40,4',
  collar: '0,14 12,14 28,4 40,4',
  'secured-put': '0,17 18,4 40,4',
};

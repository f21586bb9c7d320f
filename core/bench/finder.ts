/** Structures of one expiry with all measures, European and American; calendars and diagonals; limits over all that were made. */
import { choose, columnOf, findCandidates, Ranker, withinLimit, type FinderKind, type FinderMeasure } from '../src';
import { askedOf, testWorld } from '../src/finder/testing';
import { measure } from './measure';

const STRIKES = Array.from({ length: 61 }, (_, i) => 70 + i);
const TOGETHER: FinderKind[] = [
  'vertical-credit',
  'iron-condor',
  'iron-butterfly',
  'broken-wing',
  'condor',
  'butterfly',
];
const ACROSS: FinderKind[] = ['calendar', 'diagonal'];
const LEGS = { delta: [0.02, 0.6], wing: [0.05, 2.5] } as const;

for (const exercise of ['european', 'american'] as const)
  for (const [name, kinds] of [
    ['together', TOGETHER],
    ['across', ACROSS],
  ] as const) {
    const market = testWorld({ exercise, strikes: STRIKES, years: [0.1, 0.2] });
    const asked = askedOf(kinds, { legs: LEGS, hasStress: false });
    let { table } = findCandidates(market, asked);
    measure(
      `finder_${name}_${exercise}`,
      table.count,
      5,
      () => ({ table } = findCandidates(market, asked)),
      () => columnOf(table, 'returnOnRisk')[0]!,
    );
  }

const market = testWorld({ strikes: STRIKES, years: [0.1, 0.2] });
const { table } = findCandidates(market, askedOf(TOGETHER, { legs: LEGS, most: 100_000 }));
const pool = { count: table.count, column: (key: FinderMeasure) => columnOf(table, key) };
const weights = (['edges.past.ofRisk', 'returnOnRisk', 'touch'] as const).map((key) => ({ measure: key, weight: 1 }));
const ranker = new Ranker(pool);
let ranking = ranker.rank(weights);
measure(
  'finder_weights',
  table.count,
  5,
  () => (ranking = ranker.rank(weights)),
  () => ranking.order[0]!,
);
const held = (['touch', 'probabilityOfProfit', 'spreadShare', 'days', 'shortDelta', 'returnOnRisk'] as const).map(
  (key) => withinLimit(pool.column(key), { least: 0 }),
);
let within = 0;
const groups = { of: Int32Array.from(table.kind), count: 32 };
let least = 0;
measure(
  'finder_limit_dragged',
  table.count,
  20,
  () => {
    least += 0.001;
    const limits = [...held, withinLimit(pool.column('returnOnRisk'), { least })];
    within = choose(ranking, weights, { limits, each: 50, groups, isUndominated: false, most: 300 }).within;
  },
  () => within,
);

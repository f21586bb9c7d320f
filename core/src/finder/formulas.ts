import {
  checkFormula,
  FormulaError,
  formulaSeries,
  FUNCTIONS,
  NO_UNIT,
  type CheckedFormula,
  type Formula,
  type Measure,
  type Unit,
} from '../formula';
import { FINDER_MEASURES } from './measure-words';
import { MEASURE_KEYS, type FinderMeasure } from './measures';
import type { Pool } from './rank';

const PRICE: Unit = { price: 1 };
const UNITS: Readonly<Partial<Record<FinderMeasure, Unit>>> = {
  days: { day: 1 },
  ...Object.fromEntries(
    (
      [
        'cost',
        'worst',
        'mid',
        'best',
        'width',
        'maxProfit',
        'maxLoss',
        'capital',
        'stress',
        'spread',
        'evens.lower',
        'evens.upper',
      ] as const
    ).map((key) => [key, PRICE]),
  ),
  volSpread: { vol: 1 },
  'weakest.openInterest': { count: 1 },
  'weakest.volume': { count: 1 },
};

const unitOf = (measure: FinderMeasure): Unit => UNITS[measure] ?? (/\.(money|error)$/.test(measure) ? PRICE : NO_UNIT);

/** Shorter names of edges in money. */
const SHORT: Readonly<Record<string, FinderMeasure>> = {
  'edge.curve': 'edges.curve.money',
  'edge.past': 'edges.past.money',
  'edge.own': 'edges.ownVol.money',
  'edge.peers': 'edges.peers.money',
};

/** Measures of a candidate that formulas may name. */
export const CANDIDATE_MEASURES: readonly Measure[] = [
  ...MEASURE_KEYS.map((name) => ({ name, unit: unitOf(name), title: FINDER_MEASURES[name] })),
  ...Object.entries(SHORT).map(([name, key]) => ({ name, unit: PRICE, title: FINDER_MEASURES[key] })),
];
const BY_NAME = new Map(CANDIDATE_MEASURES.map((measure) => [measure.name, measure]));

const keyOf = (name: string): FinderMeasure => SHORT[name] ?? (name as FinderMeasure);

/** A condition on candidates that is known to make sense. */
export interface CandidateFormula {
  readonly source: string;
  /** Measures of the underlying alone stand as names with @ and their place. */
  readonly formula: CheckedFormula;
  /** What is asked of the underlying, each a formula of its own. */
  readonly outside: readonly string[];
}

/**
 * Reads a condition on candidates: their own measures, and parts that are of the underlying alone, which are worked out once for
 * each. What is both called the same is the candidate's.
 *
 * @param outsideMeasure measures of the underlying by name
 * @throws FormulaError with the characters that are wrong
 */
export function candidateFormula(source: string, outsideMeasure: (name: string) => Measure | null): CandidateFormula {
  const checked = checkFormula(source, (name) => BY_NAME.get(name) ?? outsideMeasure(name));
  if (checked.kind === 'number')
    throw new FormulaError('a condition is wanted, such as edge.past > 0.1 * capital', 0, source.length);
  const outside: string[] = [];
  const apart = (formula: Formula): Formula => {
    const { own, others } = namesIn(formula);
    if (others > 0 && own === 0 && formula.kind !== 'number') {
      // A truth is no number that a formula could name: its parts are.
      if (!isTruth(formula)) {
        outside.push(source.slice(formula.from, formula.to));
        return { kind: 'name', name: `@${outside.length - 1}`, from: formula.from, to: formula.to };
      }
    }
    switch (formula.kind) {
      case 'unary':
        return { ...formula, of: apart(formula.of) };
      case 'binary':
        return { ...formula, left: apart(formula.left), right: apart(formula.right) };
      case 'call':
        if (FUNCTIONS[formula.name]!.kind === 'series' && own > 0)
          throw new FormulaError('candidates have no sessions to look back on', formula.from, formula.to);
        return { ...formula, args: formula.args.map(apart) };
      default:
        return formula;
    }
  };
  return { source, formula: { ...checked, formula: apart(checked.formula) }, outside };
}

const TRUTHS = new Set(['<', '<=', '>', '>=', '=', '!=', 'and', 'or']);

const isTruth = (formula: Formula): boolean =>
  (formula.kind === 'binary' && TRUTHS.has(formula.operator)) ||
  (formula.kind === 'unary' && formula.operator === 'not');

/** How many names of a formula are of candidates, and how many are not. */
function namesIn(formula: Formula): { own: number; others: number } {
  const sum = (parts: readonly Formula[]) =>
    parts.map(namesIn).reduce((all, one) => ({ own: all.own + one.own, others: all.others + one.others }), {
      own: 0,
      others: 0,
    });
  switch (formula.kind) {
    case 'number':
      return { own: 0, others: 0 };
    case 'name':
      return BY_NAME.has(formula.name) ? { own: 1, others: 0 } : { own: 0, others: 1 };
    case 'unary':
      return namesIn(formula.of);
    case 'binary':
      return sum([formula.left, formula.right]);
    case 'call':
      return sum(formula.args);
  }
}

/**
 * Whether candidates meet a condition, 1 or 0; what cannot be known does not.
 *
 * @param outsideAt values of what is asked of the underlying, for each candidate
 */
export function withinFormula(
  { formula }: CandidateFormula,
  pool: Pool,
  outsideAt: (place: number) => Float64Array,
): Uint8Array {
  const values = formulaSeries(
    formula,
    1,
    (name) => (name.startsWith('@') ? outsideAt(Number(name.slice(1))) : pool.column(keyOf(name))),
    pool.count,
  );
  const out = new Uint8Array(pool.count);
  for (let i = 0; i < out.length; i++) out[i] = Number(values[i] === 1);
  return out;
}

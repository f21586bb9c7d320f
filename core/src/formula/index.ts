/**
 * Formulas over measures: read, checked for names and units, completed, evaluated over sessions. Imports realized for ranks.
 */
export {
  checkFormula,
  completionsAt,
  MOST_SESSIONS,
  type CheckedFormula,
  type Completion,
  type Measure,
} from './check';
export { evaluateFormula, formulaSeries, type SeriesOf } from './evaluate';
export { FUNCTIONS } from './functions';
export { FormulaError, MOST_CHARACTERS, parseFormula, type Formula, type Span } from './parse';
export { NO_UNIT, unitWords, type Unit } from './units';

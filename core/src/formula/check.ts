import { FUNCTIONS } from './functions';
import { FormulaError, parseFormula, RESERVED, type Formula, type Span } from './parse';
import { isSameUnit, multiplied, NO_UNIT, raised, unitWords, type Unit } from './units';

/** A measure that formulas may name. */
export interface Measure {
  name: string;
  unit: Unit;
  title: string;
}

/** What a part of a formula is: a truth, or numbers of a unit; a written number takes the unit that it stands beside. */
type Type = { kind: 'truth' } | { kind: 'number'; unit: Unit; isFree: boolean };

/** A formula that is known to make sense. */
export interface CheckedFormula {
  source: string;
  formula: Formula;
  kind: 'truth' | 'number';
  /** Of its numbers. */
  unit: Unit;
  /** Measures that it names. */
  names: string[];
  /** Sessions before the last that it reads of them. */
  sessions: number;
}

/** Sessions that a function may look back. */
export const MOST_SESSIONS = 1260;

type Lookup = (name: string) => Measure | null;

class Checker {
  readonly names = new Set<string>();

  constructor(private readonly measure: Lookup) {}

  typeOf(formula: Formula): Type {
    switch (formula.kind) {
      case 'number':
        return { kind: 'number', unit: NO_UNIT, isFree: true };
      case 'name': {
        const found = this.measure(formula.name);
        if (!found)
          throw new FormulaError(
            FUNCTIONS[formula.name]
              ? `${formula.name} is a function: ${formula.name}(…)`
              : `there is no measure “${formula.name}”`,
            formula.from,
            formula.to,
          );
        this.names.add(found.name);
        return { kind: 'number', unit: found.unit, isFree: false };
      }
      case 'unary': {
        if (formula.operator === '-') return this.number(formula.of);
        this.truth(formula.of);
        return { kind: 'truth' };
      }
      case 'binary':
        return this.binary(formula);
      case 'call':
        return this.call(formula);
    }
  }

  private number(formula: Formula): Type & { kind: 'number' } {
    const type = this.typeOf(formula);
    if (type.kind === 'number') return type;
    throw new FormulaError('a number is wanted here, not a condition', formula.from, formula.to);
  }

  private truth(formula: Formula): void {
    if (this.typeOf(formula).kind === 'number')
      throw new FormulaError('a condition is wanted here, such as iv30 > 20%', formula.from, formula.to);
  }

  /** The unit that both have; a written number takes that of the other. */
  private together(
    left: Type & { kind: 'number' },
    right: Type & { kind: 'number' },
    at: Span,
  ): Type & { kind: 'number' } {
    if (left.isFree) return right;
    if (right.isFree || isSameUnit(left.unit, right.unit)) return left;
    throw new FormulaError(
      `${unitWords(left.unit)} and ${unitWords(right.unit)} cannot be held against each other`,
      at.from,
      at.to,
    );
  }

  private binary(formula: Formula & { kind: 'binary' }): Type {
    const { operator, left, right } = formula;
    if (operator === 'and' || operator === 'or') {
      this.truth(left);
      this.truth(right);
      return { kind: 'truth' };
    }
    const [a, b] = [this.number(left), this.number(right)];
    const isFree = a.isFree && b.isFree;
    switch (operator) {
      case '+':
      case '-':
        return this.together(a, b, formula);
      case '*':
        return { kind: 'number', unit: multiplied(a.unit, b.unit, 1), isFree };
      case '/':
        return { kind: 'number', unit: multiplied(a.unit, b.unit, -1), isFree };
      case '^': {
        if (isSameUnit(a.unit, NO_UNIT)) {
          if (!isSameUnit(b.unit, NO_UNIT)) throw new FormulaError('a power is a plain number', right.from, right.to);
          return { kind: 'number', unit: NO_UNIT, isFree };
        }
        const power = constantOf(right);
        if (power === null) throw new FormulaError('the power of a unit must be written out', right.from, right.to);
        return { kind: 'number', unit: raised(a.unit, power), isFree: false };
      }
      default:
        this.together(a, b, formula);
        return { kind: 'truth' };
    }
  }

  private call(formula: Formula & { kind: 'call' }): Type {
    const { name, args, from, to } = formula;
    const found = Object.hasOwn(FUNCTIONS, name) ? FUNCTIONS[name]! : null;
    if (!found) throw new FormulaError(`there is no function “${name}”`, from, from + name.length);
    if (found.kind === 'choice') {
      if (args.length !== 3) throw new FormulaError('if takes a condition and two numbers', from, to);
      this.truth(args[0]!);
      return this.together(this.number(args[1]!), this.number(args[2]!), formula);
    }
    if (found.kind === 'series') {
      if (args.length !== 2) throw new FormulaError(`${name} takes a measure and a number of sessions`, from, to);
      const type = this.number(args[0]!);
      sessionsOf(args[1]!, found.least);
      return found.unit === 'same' ? type : { kind: 'number', unit: NO_UNIT, isFree: false };
    }
    if (args.length < found.least || args.length > found.most)
      throw new FormulaError(
        `${name} takes ${found.least === found.most ? found.least : `${found.least} to ${found.most}`} number${found.most === 1 ? '' : 's'}`,
        from,
        to,
      );
    const types = args.map((arg) => this.number(arg));
    if (found.unit === 'plain') {
      types.forEach(({ unit }, i) => {
        if (!isSameUnit(unit, NO_UNIT))
          throw new FormulaError(`${name} takes a plain number, not ${unitWords(unit)}`, args[i]!.from, args[i]!.to);
      });
      return { kind: 'number', unit: NO_UNIT, isFree: false };
    }
    const type = types.reduce((all, one) => this.together(all, one, formula));
    return found.unit === 'root' ? { ...type, unit: raised(type.unit, 0.5) } : type;
  }
}

/** A number that is written out, or a minus before one. */
function constantOf(formula: Formula): number | null {
  if (formula.kind === 'number') return formula.value;
  if (formula.kind !== 'unary' || formula.operator !== '-') return null;
  const of = constantOf(formula.of);
  return of === null ? null : -of;
}

/**
 * The sessions that a function looks back.
 *
 * @throws FormulaError where no whole number in its bounds is written out
 */
export function sessionsOf(formula: Formula, least: number): number {
  const value = formula.kind === 'number' ? formula.value : NaN;
  if (Number.isInteger(value) && value >= least && value <= MOST_SESSIONS) return value;
  throw new FormulaError(`sessions are a whole number from ${least} to ${MOST_SESSIONS}`, formula.from, formula.to);
}

/** Sessions before the last that a formula reads of its measures. */
function reachOf(formula: Formula): number {
  switch (formula.kind) {
    case 'number':
    case 'name':
      return 0;
    case 'unary':
      return reachOf(formula.of);
    case 'binary':
      return Math.max(reachOf(formula.left), reachOf(formula.right));
    case 'call': {
      const found = FUNCTIONS[formula.name]!;
      if (found.kind !== 'series') return Math.max(...formula.args.map(reachOf));
      return reachOf(formula.args[0]!) + sessionsOf(formula.args[1]!, found.least) - 1 + found.more;
    }
  }
}

/**
 * Reads a formula and makes sure that it has a sense: its measures and functions are known, and its units fit.
 *
 * @throws FormulaError with the characters that are wrong
 */
export function checkFormula(source: string, measure: Lookup): CheckedFormula {
  const formula = parseFormula(source);
  const checker = new Checker(measure);
  const type = checker.typeOf(formula);
  const sessions = reachOf(formula);
  if (sessions > MOST_SESSIONS)
    throw new FormulaError(`it looks back ${sessions} sessions, at most ${MOST_SESSIONS} are read`, 0, source.length);
  return {
    source,
    formula,
    kind: type.kind,
    unit: type.kind === 'number' ? type.unit : NO_UNIT,
    names: [...checker.names],
    sessions,
  };
}

/** What may stand where somebody is writing. */
export interface Completion {
  text: string;
  title: string;
  kind: 'measure' | 'function' | 'word';
}

/**
 * Words that go on with the one before a place: those that begin so first.
 *
 * @param at the place, in characters
 * @returns what they replace, and the words; none inside a number
 */
export function completionsAt(
  source: string,
  at: number,
  measures: readonly Measure[],
): Span & { words: Completion[] } {
  const before = /(?<![A-Za-z0-9.])[A-Za-z][A-Za-z0-9.]*$/.exec(source.slice(0, at))?.[0] ?? '';
  const from = at - before.length;
  if (/[0-9.]$/.test(source.slice(0, from))) return { from: at, to: at, words: [] };
  const sought = before.toLowerCase();
  const all: Completion[] = [
    ...measures.map(({ name, title }) => ({ text: name, title, kind: 'measure' as const })),
    ...Object.entries(FUNCTIONS).map(([text, { title }]) => ({ text, title, kind: 'function' as const })),
    ...RESERVED.map((text) => ({ text, title: 'joins conditions', kind: 'word' as const })),
  ];
  const begins = all.filter(({ text }) => text.toLowerCase().startsWith(sought));
  const holds = sought.length < 2 ? [] : all.filter(({ text }) => text.toLowerCase().indexOf(sought) > 0);
  return { from, to: at, words: [...begins, ...holds] };
}

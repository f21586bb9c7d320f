/**
 * The language of computed columns and filters. It is read by this parser and evaluated by evaluate.ts; nothing of it is ever
 * run as code.
 *
 *     formula    = or
 *     or         = and { "or" and }
 *     and        = not { "and" not }
 *     not        = "not" not | comparison
 *     comparison = sum [ ( "<" | "<=" | ">" | ">=" | "=" | "!=" ) sum ]
 *     sum        = product { ( "+" | "-" ) product }
 *     product    = sign { ( "*" | "/" ) sign }
 *     sign       = "-" sign | power
 *     power      = value [ "^" sign ]
 *     value      = number [ "%" ] | call | name | "(" formula ")"
 *     call       = function "(" formula { "," formula } ")"
 *     name       = letter { letter | digit } [ "." letter { letter | digit } ]
 */

/** Where something stands in a formula: from a character on, up to another that is no part of it. */
export interface Span {
  from: number;
  to: number;
}

export type BinaryOperator = '+' | '-' | '*' | '/' | '^' | '<' | '<=' | '>' | '>=' | '=' | '!=' | 'and' | 'or';

export type Formula = Span &
  (
    | { kind: 'number'; value: number }
    | { kind: 'name'; name: string }
    | { kind: 'call'; name: string; args: Formula[] }
    | { kind: 'unary'; operator: '-' | 'not'; of: Formula }
    | { kind: 'binary'; operator: BinaryOperator; left: Formula; right: Formula }
  );

/** What is wrong with a formula, and where. */
export class FormulaError extends Error implements Span {
  override readonly name = 'FormulaError';

  constructor(
    message: string,
    readonly from: number,
    readonly to: number,
  ) {
    super(message);
  }
}

/** Characters that a formula may have, and parts that may stand in each other. */
export const MOST_CHARACTERS = 500;
const MOST_DEPTH = 40;

interface Token extends Span {
  kind: 'number' | 'word' | 'sign' | 'end';
  text: string;
}

const NUMBER = /(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?/y;
const WORD = /[A-Za-z][A-Za-z0-9]*(?:\.[A-Za-z][A-Za-z0-9]*)*/y;
const SIGN = /<=|>=|!=|[<>=+\-*/^%(),]/y;
const SPACE = /\s+/y;
/** Words of the language itself. */
export const RESERVED = ['and', 'or', 'not'] as const;

function tokensOf(source: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  const match = (pattern: RegExp) => {
    pattern.lastIndex = at;
    return pattern.exec(source)?.[0] ?? null;
  };
  while (at < source.length) {
    const space = match(SPACE);
    if (space !== null) {
      at += space.length;
      continue;
    }
    const found = (['number', 'word', 'sign'] as const)
      .map((kind) => ({ kind, text: match({ number: NUMBER, word: WORD, sign: SIGN }[kind]) }))
      .find(({ text }) => text !== null);
    if (!found) throw new FormulaError(`“${source[at]}” means nothing here`, at, at + 1);
    tokens.push({ kind: found.kind, text: found.text!, from: at, to: at + found.text!.length });
    at += found.text!.length;
  }
  tokens.push({ kind: 'end', text: '', from: source.length, to: source.length });
  return tokens;
}

class Parser {
  private at = 0;
  private depth = 0;

  constructor(private readonly tokens: Token[]) {}

  whole(): Formula {
    const formula = this.or();
    const rest = this.next();
    if (rest.kind !== 'end') throw this.unexpected(rest, 'the formula should end here, or go on with an operator');
    return formula;
  }

  private peek(): Token {
    return this.tokens[this.at]!;
  }

  private next(): Token {
    const token = this.tokens[this.at]!;
    if (token.kind !== 'end') this.at++;
    return token;
  }

  private takes(...texts: string[]): Token | null {
    const token = this.peek();
    return token.kind !== 'end' && token.kind !== 'number' && texts.includes(token.text) ? this.next() : null;
  }

  private unexpected(token: Token, wanted: string): FormulaError {
    const what = token.kind === 'end' ? 'the formula ends too early' : `“${token.text}” does not belong here`;
    return new FormulaError(`${what}: ${wanted}`, token.from, Math.max(token.to, token.from + 1));
  }

  /** One level deeper, which has an end: what stands in itself too often is refused. */
  private deeper(read: () => Formula): Formula {
    if (++this.depth > MOST_DEPTH) {
      const { from, to } = this.peek();
      throw new FormulaError('too many parts stand in each other', from, Math.max(to, from + 1));
    }
    const formula = read();
    this.depth--;
    return formula;
  }

  private chain(read: () => Formula, ...operators: BinaryOperator[]): Formula {
    let left = read();
    for (let token = this.takes(...operators); token; token = this.takes(...operators)) {
      const right = read();
      left = { kind: 'binary', operator: token.text as BinaryOperator, left, right, from: left.from, to: right.to };
    }
    return left;
  }

  private or = (): Formula => this.deeper(() => this.chain(this.and, 'or'));
  private and = (): Formula => this.chain(this.not, 'and');

  private not = (): Formula => {
    const token = this.takes('not');
    if (!token) return this.comparison();
    const of = this.deeper(this.not);
    return { kind: 'unary', operator: 'not', of, from: token.from, to: of.to };
  };

  private comparison(): Formula {
    const left = this.sum();
    const token = this.takes('<', '<=', '>', '>=', '=', '!=');
    if (!token) return left;
    const right = this.sum();
    const again = this.peek();
    if (['<', '<=', '>', '>=', '=', '!='].includes(again.text))
      throw this.unexpected(again, 'join comparisons by “and”');
    return { kind: 'binary', operator: token.text as BinaryOperator, left, right, from: left.from, to: right.to };
  }

  private sum = (): Formula => this.chain(this.product, '+', '-');
  private product = (): Formula => this.chain(this.sign, '*', '/');

  private sign = (): Formula => {
    const token = this.takes('-');
    if (!token) return this.power();
    const of = this.deeper(this.sign);
    return { kind: 'unary', operator: '-', of, from: token.from, to: of.to };
  };

  private power(): Formula {
    const left = this.value();
    if (!this.takes('^')) return left;
    const right = this.deeper(this.sign);
    return { kind: 'binary', operator: '^', left, right, from: left.from, to: right.to };
  }

  private value(): Formula {
    const token = this.next();
    if (token.kind === 'number') {
      const percent = this.takes('%');
      const value = Number(token.text) / (percent ? 100 : 1);
      if (!Number.isFinite(value)) throw new FormulaError('this number is too large', token.from, token.to);
      return { kind: 'number', value, from: token.from, to: (percent ?? token).to };
    }
    if (token.text === '(' && token.kind === 'sign') {
      const inner = this.or();
      const end = this.next();
      if (end.text !== ')') throw this.unexpected(end, 'the bracket is not closed');
      return { ...inner, from: token.from, to: end.to };
    }
    if (token.kind === 'word' && !(RESERVED as readonly string[]).includes(token.text)) {
      if (!this.takes('(')) return { kind: 'name', name: token.text, from: token.from, to: token.to };
      const args = [this.or()];
      while (this.takes(',')) args.push(this.or());
      const end = this.next();
      if (end.text !== ')') throw this.unexpected(end, 'the bracket is not closed');
      return { kind: 'call', name: token.text, args, from: token.from, to: end.to };
    }
    throw this.unexpected(token, 'a number, a measure, a function or a bracket is wanted');
  }
}

/**
 * Reads a formula.
 *
 * @throws FormulaError with the characters that are wrong
 */
export function parseFormula(source: string): Formula {
  if (source.length > MOST_CHARACTERS)
    throw new FormulaError(`a formula has at most ${MOST_CHARACTERS} characters`, MOST_CHARACTERS, source.length);
  if (source.trim() === '') throw new FormulaError('nothing is written yet', 0, 1);
  return new Parser(tokensOf(source)).whole();
}

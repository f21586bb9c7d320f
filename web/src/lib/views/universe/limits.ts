/** A measure that has a least and a most: what it is as a formula, and whether it is read in per cent. */
export interface Limited {
  formula: string;
  isPercent: boolean;
}

export type LimitEnd = 'min' | 'max';

const OPERATORS: Record<LimitEnd, string> = { min: '>=', max: '<=' };
const NUMBER = /^[-−]?(?:\d+\.?\d*|\.\d+)$/;

const headOf = ({ formula }: Limited, end: LimitEnd) => `${formula} ${OPERATORS[end]} `;

/** What a limit stands at among the conditions, as it is typed; empty without one. */
export function limitText(conditions: readonly string[], limited: Limited, end: LimitEnd): string {
  const head = headOf(limited, end);
  const found = conditions.find((one) => one.startsWith(head) && isNumber(one.slice(head.length)));
  return found ? found.slice(head.length).replace('%', '') : '';
}

const isNumber = (text: string) => NUMBER.test(text.replace(/%$/, ''));

/**
 * The conditions with a limit set to what is typed, or without it where nothing is.
 *
 * @returns null where what is typed is no number
 */
export function withLimit(
  conditions: readonly string[],
  limited: Limited,
  end: LimitEnd,
  text: string,
): string[] | null {
  const typed = text.trim().replace('−', '-');
  const head = headOf(limited, end);
  const others = conditions.filter((one) => !(one.startsWith(head) && isNumber(one.slice(head.length))));
  if (typed === '') return others;
  if (!NUMBER.test(typed)) return null;
  return [...others, `${head}${typed}${limited.isPercent ? '%' : ''}`];
}

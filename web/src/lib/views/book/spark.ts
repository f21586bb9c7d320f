/** A small picture of profits: a line with what lies between it and nothing, gains and losses apart. */
export interface Spark {
  line: string;
  gains: string;
  losses: string;
  zero: number;
}

/** Profits in a box of a width and a height; null where fewer than two are known. */
export function sparkOf(values: readonly (number | null)[], width: number, height: number): Spark | null {
  const known = values.flatMap((value, i) => (value === null ? [] : [{ i, value }]));
  if (known.length < 2) return null;
  const all = [0, ...known.map(({ value }) => value)];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const y = (value: number) => 1 + ((height - 2) * (high - value)) / (high - low || 1);
  const x = (i: number) => (width * i) / Math.max(1, values.length - 1);
  const at = (i: number, value: number) => `${x(i).toFixed(1)} ${y(value).toFixed(1)}`;
  const zero = y(0);
  const area = (side: (value: number) => number) => {
    const top = known.map(({ i, value }) => `L${at(i, side(value))}`).join('');
    return `M${x(known[0]!.i).toFixed(1)} ${zero.toFixed(1)}${top}L${x(known.at(-1)!.i).toFixed(1)} ${zero.toFixed(1)}Z`;
  };
  return {
    line: known.map(({ i, value }, k) => `${k === 0 ? 'M' : 'L'}${at(i, value)}`).join(''),
    gains: area((value) => Math.max(0, value)),
    losses: area((value) => Math.min(0, value)),
    zero,
  };
}

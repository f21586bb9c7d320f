/** What numbers are of, and how often each is multiplied: vol over price is { vol: 1, price: −1 }. Of nothing: {}. */
export type Unit = Readonly<Partial<Record<BaseUnit, number>>>;

/** `vol` for vols and what is added to them, decimals; `price` for money; `count` for contracts; `day` for time. */
export const BASE_UNITS = ['vol', 'price', 'count', 'day'] as const;
export type BaseUnit = (typeof BASE_UNITS)[number];

export const NO_UNIT: Unit = {};

/** Product of two units, or their quotient. */
export function multiplied(a: Unit, b: Unit, by: 1 | -1): Unit {
  const out: Partial<Record<BaseUnit, number>> = {};
  for (const base of BASE_UNITS) {
    const power = (a[base] ?? 0) + by * (b[base] ?? 0);
    if (power !== 0) out[base] = power;
  }
  return out;
}

/** A unit to a power that may be broken. */
export function raised(unit: Unit, power: number): Unit {
  const out: Partial<Record<BaseUnit, number>> = {};
  for (const base of BASE_UNITS) if (unit[base]) out[base] = unit[base] * power;
  return out;
}

export function isSameUnit(a: Unit, b: Unit): boolean {
  return BASE_UNITS.every((base) => (a[base] ?? 0) === (b[base] ?? 0));
}

/** A unit in words: vol, price², vol per day; a plain number where it is of nothing. */
export function unitWords(unit: Unit): string {
  const word = (base: BaseUnit, power: number) => (power === 1 ? base : `${base}^${power}`);
  const held = BASE_UNITS.filter((base) => unit[base]);
  const over = held.filter((base) => unit[base]! > 0).map((base) => word(base, unit[base]!));
  const under = held.filter((base) => unit[base]! < 0).map((base) => word(base, -unit[base]!));
  if (held.length === 0) return 'a plain number';
  return [over.join('·') || '1', ...under].join(' per ');
}

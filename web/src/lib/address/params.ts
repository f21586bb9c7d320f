/** An empty list in an address. */
export const NONE = 'none';
const DAY = /^\d{4}-\d\d-\d\d$/;

/** How a value stands in the address. */
export interface Param<T> {
  name: string;
  /** What an address that does not say it means. */
  usual: T;
  /** What stands when nothing has been chosen yet, where that is something else. */
  fresh?: T;
  /** A value that makes no sense takes its default. */
  read: (text: string | null, symbol: string | null) => T;
  write: (value: T, symbol: string | null) => string | null;
}

/** How several values stand in the address as one. */
export interface Joint<T> extends Param<Partial<T>> {
  /** The value that it is written before; the end otherwise. */
  before?: keyof T;
}

/** One piece of an address: a name and the values that stand behind it. */
interface Piece<T> {
  readonly name: string;
  readonly usual: Partial<T>;
  readonly fresh: Partial<T> | null;
  read(text: string | null, symbol: string | null): Partial<T>;
  write(values: Partial<T>, symbol: string | null): string | null;
}

/** Parameters that belong together: those of a view, or the context that all views share. */
export interface Params<T extends object> {
  readonly pieces: readonly Piece<T>[];
  /** What stands when nothing has been chosen yet. */
  readonly start: T;
  /** What stands when another underlying is chosen: what was picked of the one means nothing on another. */
  readonly anew: Partial<T>;
}

/**
 * Defines parameters by the keys of their values.
 *
 * @typeParam J keys of values that stand in the address together
 * @param singles how each other value stands there, in the order in which they are written
 * @param options.joint those that stand together
 * @param options.ofUnderlying keys of what belongs to the underlying, and goes with it
 */
export function defineParams<T extends object, J extends keyof T = never>(
  singles: { [P in Exclude<keyof T, J>]: Param<T[P]> },
  { joint = [], ofUnderlying = [] }: { joint?: readonly Joint<T>[]; ofUnderlying?: readonly (keyof T)[] } = {},
): Params<T> {
  const pieceOf = ({ name, usual, fresh, read, write }: Param<Partial<T>>): Piece<T> => ({
    ...{ name, usual, read, write },
    fresh: fresh ?? null,
  });
  const keys = Object.keys(singles) as Exclude<keyof T, J>[];
  const pieces = keys.flatMap((key): Piece<T>[] => {
    const { name, usual, fresh, read, write } = singles[key];
    const of = (value: T[typeof key]) => ({ [key]: value }) as unknown as Partial<T>;
    const single: Piece<T> = {
      name,
      usual: of(usual),
      fresh: fresh === undefined ? null : of(fresh),
      read: (text, symbol) => of(read(text, symbol)),
      write: (values, symbol) => write(values[key] as T[typeof key], symbol),
    };
    return [...joint.filter(({ before }) => before === key).map(pieceOf), single];
  });
  pieces.push(...joint.filter(({ before }) => before === undefined).map(pieceOf));
  const start = Object.assign({}, ...pieces.map(({ usual, fresh }) => fresh ?? usual)) as T;
  return { pieces, start, anew: Object.fromEntries(ofUnderlying.map((key) => [key, start[key]])) as Partial<T> };
}

export const plain = (value: string | number | null) => (value === null ? null : String(value));

/** One of some words. */
export function oneOf<T extends string>(name: string, words: readonly T[], usual: T): Param<T> {
  return { name, usual, read: (text) => words.find((word) => word === text) ?? usual, write: plain };
}

/** One of some numbers. */
export function numberOf<T extends number>(name: string, numbers: readonly T[], usual: T): Param<T> {
  return { name, usual, read: (text) => numbers.find((number) => String(number) === text) ?? usual, write: plain };
}

/** A number between two ends. */
export function numberIn(
  name: string,
  [low, high]: readonly [number, number],
  usual: number,
  isWhole = false,
): Param<number> {
  const read = (text: string | null) => {
    const value = Number(text || NaN);
    return value >= low && value <= high && (!isWhole || Number.isInteger(value)) ? value : usual;
  };
  return { name, usual, read, write: plain };
}

/** A word of the address, or the default without one. */
export function flag(name: string, word: string, usual = false): Param<boolean> {
  return {
    name,
    usual,
    read: (text) => (text === word ? !usual : usual),
    write: (value) => (value === usual ? null : word),
  };
}

/** Those of the words that a list names, in the order of the words; a list without any of them takes its default. */
export function someOf<T extends string>(name: string, words: readonly T[], usual: readonly T[]): Param<readonly T[]> {
  const read = (text: string | null) => {
    if (text === NONE) return [];
    const named = words.filter((word) => text?.split(',').includes(word));
    return named.length > 0 ? named : usual;
  };
  return { name, usual, read, write: (value) => value.join() || NONE };
}

/** The same in the order in which they are named, each once. */
export function namedOf<T extends string>(name: string, words: readonly T[], usual: readonly T[]): Param<readonly T[]> {
  const read = (text: string | null) => {
    const named = (text ?? '').split(',').flatMap((one) => words.find((word) => word === one) ?? []);
    return named.length > 0 ? [...new Set(named)] : usual;
  };
  return { name, usual, read, write: (value) => value.join() };
}

/** Texts that do not hold what stands between them, each once. */
export function texts(
  name: string,
  between: string,
  most = Infinity,
  fits: (text: string) => boolean = () => true,
): Param<readonly string[]> {
  const read = (text: string | null) =>
    [...new Set((text ?? '').split(between).map((one) => one.trim()))].filter((one) => one && fits(one)).slice(0, most);
  return { name, usual: [], read, write: (value) => value.join(between) || null };
}

/** Numbers between two ends, each once. */
export function numbers(
  name: string,
  [low, high]: readonly [number, number],
  most: number,
  usual: readonly number[],
): Param<readonly number[]> {
  const read = (text: string | null) => {
    if (text === NONE) return [];
    const named = (text ?? '').split(',').map((one) => Number(one || NaN));
    const sense = [...new Set(named.filter((one) => one >= low && one <= high))].slice(0, most);
    return sense.length > 0 ? sense : usual;
  };
  return { name, usual, read, write: (value) => value.join() || NONE };
}

/** Any text. */
export const word = <T extends string | null>(name: string, usual: T): Param<T> => ({
  name,
  usual,
  read: (text) => (text || usual) as T,
  write: (value) => value || null,
});

/** What fits, or nothing. */
const fitting = (name: string, fits: (text: string) => boolean): Param<string | null> => ({
  name,
  usual: null,
  read: (text) => (text !== null && fits(text) ? text : null),
  write: plain,
});

/** A moment, ISO with zone. */
export const moment = (name: string) => fitting(name, (text) => !Number.isNaN(Date.parse(text)));

/** A day, YYYY-MM-DD. */
export const day = (name: string) => fitting(name, (text) => DAY.test(text));

/** A size and its unit, such as `5 percent`; null where they make no sense. */
export function sizeOf<U extends string>(
  text: string | null,
  units: readonly U[],
  most: (unit: U) => number,
): { unit: U; size: number } | null {
  const [, digits, word] = /^(\d+(?:\.\d+)?) (\w+)$/.exec(text ?? '') ?? [];
  const unit = units.find((one) => one === word);
  const size = Number(digits);
  return unit !== undefined && size > 0 && size <= most(unit) ? { unit, size } : null;
}

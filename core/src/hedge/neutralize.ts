import { solveSquare } from './linear';

/** Sensitivities that can be made nothing. */
export const HEDGE_GREEKS = ['delta', 'gamma', 'vega', 'theta', 'rho', 'vanna', 'volga'] as const;
export type HedgeGreek = (typeof HEDGE_GREEKS)[number];
export type HedgeGreeks = Record<HedgeGreek, number>;

/** What can be traded, by what one unit of it does to each of what is looked at: the Greeks, or whatever else has names. */
export type HedgeInstrument<Name extends string = HedgeGreek> = Readonly<Record<Name, number>> & {
  readonly id: string;
  /** What counts of one unit where several choices will do; 1 unless given. */
  readonly cost?: number;
};

/** The name of what has delta alone, and is traded last. */
export const UNDERLYING_ID = 'underlying';

/** So much of something. */
export interface HedgeQuantity {
  readonly id: string;
  readonly quantity: number;
}

export interface HedgeRequest<Name extends string = HedgeGreek> {
  /** Delta is among them. */
  readonly exposure: Readonly<Record<Name, number>>;
  /** The underlying may be missing among them: it is always there, with a delta of one. */
  readonly instruments: readonly HedgeInstrument<Name>[];
  readonly neutralize: readonly Name[];
  /** Whether each quantity is a whole number. */
  readonly whole: boolean;
  /** What is to be least where several choices of options will do: their sizes at their costs, unless given. */
  readonly least?: (options: readonly HedgeQuantity[]) => number;
}

/** A trade: what it does, and what is left of all Greeks after it and those before. */
export interface HedgeStep<Name extends string = HedgeGreek> extends HedgeQuantity {
  position: Record<Name, number>;
  cumulative: Record<Name, number>;
}

export interface Hedge<Name extends string = HedgeGreek> {
  steps: HedgeStep<Name>[];
  /** What is left after all of them. */
  residual: Record<Name, number>;
}

/** Why there is no hedge. */
export interface HedgeRefused {
  refused: string;
}

/** Ways to choose instruments that are gone through. */
export const MOST_WAYS = 200_000;
/** Totals that differ by less are the same. */
const SAME = 1e-12;
/** A cosine that far from one is two ways of saying one thing. */
const PARALLEL = 1e-10;

/** Something for each of some names. */
export const eachOf = <Name extends string, T>(names: readonly Name[], of: (name: Name) => T) =>
  Object.fromEntries(names.map((name) => [name, of(name)])) as Record<Name, T>;

/** Something for each Greek. */
export const eachGreek = <T>(of: (name: HedgeGreek) => T) => eachOf(HEDGE_GREEKS, of);

/** The names of what is looked at. */
const namesOf = <Name extends string>(exposure: Readonly<Record<Name, number>>) => Object.keys(exposure) as Name[];

/** How many ways there are to choose some of a number. */
export function waysToChoose(some: number, of: number): number {
  let ways = 1;
  for (let i = 0; i < some; i++) ways = (ways * (of - i)) / (i + 1);
  return Math.round(Math.max(0, ways));
}

/** Calls with each choice of so many of a number, ascending. */
function forEachChoice(some: number, of: number, take: (places: readonly number[]) => void): void {
  const places = Array.from({ length: some }, (_, i) => i);
  while (places.every((place, i) => place <= of - some + i)) {
    take(places);
    let at = some - 1;
    while (at >= 0 && places[at] === of - some + at) at--;
    if (at < 0) return;
    places[at]!++;
    for (let i = at + 1; i < some; i++) places[i] = places[i - 1]! + 1;
  }
}

/** Why no choice of instruments determines the quantities. */
function dependence<Name extends string>(options: readonly HedgeInstrument<Name>[], targets: readonly Name[]): string {
  const none = targets.find((name) => options.every((one) => one[name] === 0));
  if (none) return `no instrument has any ${none}`;
  // In units of the largest of each, so that no Greek outweighs the others.
  const largest = eachOf(targets, (name) => Math.max(...options.map((one) => Math.abs(one[name]))));
  const size = (one: HedgeInstrument<Name>) => Math.hypot(...targets.map((name) => one[name] / largest[name]));
  for (const [i, one] of options.entries()) {
    for (const other of options.slice(i + 1)) {
      const dot = targets.reduce((sum, name) => sum + (one[name] * other[name]) / largest[name] ** 2, 0);
      const cosine = Math.abs(dot) / (size(one) * size(other));
      if (cosine > 1 - PARALLEL) return `${one.id} and ${other.id} say the same of ${targets.join(' and ')}`;
    }
  }
  return `the instruments say the same of ${targets.join(' and ')}`;
}

/** Quantities of options that bring some Greeks to nothing, of all choices the one with the least in total. */
function cheapest<Name extends string>(
  { exposure, least: measure }: HedgeRequest<Name>,
  options: readonly HedgeInstrument<Name>[],
  targets: readonly Name[],
): readonly HedgeQuantity[] | HedgeRefused {
  if (targets.length === 0 || targets.every((name) => exposure[name] === 0)) return [];
  if (options.length < targets.length) {
    const words = options.length === 1 ? 'one option' : `${options.length} options`;
    return { refused: `${words} cannot bring ${targets.join(' and ')} to nothing: each takes one of its own` };
  }
  const right = targets.map((name) => -exposure[name]);
  let [least, best] = [Infinity, null as HedgeQuantity[] | null];
  forEachChoice(targets.length, options.length, (places) => {
    const chosen = places.map((place) => options[place]!);
    const found = solveSquare(
      targets.map((name) => chosen.map((one) => one[name])),
      right,
    );
    if (!found) return;
    const quantities = chosen.map(({ id }, i) => ({ id, quantity: found[i]! }));
    const total = measure
      ? measure(quantities)
      : quantities.reduce((sum, { quantity }, i) => sum + Math.abs(quantity) * (chosen[i]!.cost ?? 1), 0);
    if (total < least * (1 - SAME)) [least, best] = [total, quantities];
  });
  return best ?? { refused: dependence(options, targets) };
}

/** The nearest whole number, halves away from nothing. */
export const toWhole = (value: number) => Math.sign(value) * Math.round(Math.abs(value)) || 0;

/**
 * Trades that bring Greeks of an exposure to nothing, as on paper: options until all but delta are, then the underlying until
 * delta is (J. Hull, "Options, Futures, and Other Derivatives", the chapter on Greek letters). With more options than Greeks those
 * with the least in total absolute quantity, or cost: the least of a sum of sizes under linear equations is met with as many options as
 * equations, so each such choice is solved. In whole numbers options are rounded first, and the underlying takes the rest.
 *
 * @returns why not, where the options are too few or say the same
 */
export function neutralize<Name extends string>(request: HedgeRequest<Name>): Hedge<Name> | HedgeRefused {
  const { exposure, instruments, neutralize: names } = request;
  const options = instruments.filter(({ id }) => id !== UNDERLYING_ID);
  const targets = namesOf(exposure).filter((name) => name !== 'delta' && names.includes(name));
  const chosen = cheapest(request, options, targets);
  return 'refused' in chosen ? chosen : hedgeBy(request, chosen);
}

/** Trades in some instruments, and of the underlying in what they leave of delta where that is to be nothing. */
export function hedgeBy<Name extends string>(
  { exposure, instruments, neutralize: wantedNames, whole }: HedgeRequest<Name>,
  options: readonly HedgeQuantity[],
): Hedge<Name> {
  const names = namesOf(exposure);
  const underlying: HedgeInstrument<Name> = instruments.find(({ id }) => id === UNDERLYING_ID) ?? {
    ...eachOf(names, (name) => Number(name === 'delta')),
    id: UNDERLYING_ID,
  };
  let left = eachOf(names, (name) => exposure[name]);
  const steps: HedgeStep<Name>[] = [];
  const trade = (instrument: HedgeInstrument<Name>, wanted: number) => {
    const quantity = whole ? toWhole(wanted) : wanted;
    if (quantity === 0) return;
    const position = eachOf(names, (name) => quantity * instrument[name]);
    left = eachOf(names, (name) => left[name] + position[name]);
    steps.push({ id: instrument.id, quantity, position, cumulative: left });
  };
  for (const { id, quantity } of options)
    trade(
      instruments.find((one) => one.id === id)!,
      quantity,
    );
  const delta = 'delta' as Name;
  if (wantedNames.includes(delta)) trade(underlying, -left[delta] / underlying[delta]);
  return { steps, residual: left };
}

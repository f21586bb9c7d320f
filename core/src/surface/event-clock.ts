/**
 * Time as variance passes. An ordinary stretch of calendar time carries variance evenly; the moment of an event carries some
 * of its own, which is told from the expiries around it.
 */

/** Total variance at the forward of an expiry. */
export interface VariancePoint {
  readonly years: number;
  readonly variance: number;
}

/** The variance between two expiries, or before the first. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
  /** Of the whole stretch at the forward. */
  readonly variance: number;
  /** What time alone carries of it, by year. */
  readonly ambient: number;
  /** Events in it, in years from now, and what each carries beside. */
  readonly events: readonly number[];
  readonly perEvent: number;
}

/** Half a day: what quotes say of a shorter stretch between two expiries is their noise. */
const SHORTEST_YEARS = 0.5 / 365;

/**
 * The expiry that the stretch before another begins with: the last that comes at least half a day sooner. A series that settles
 * hours after another of the same day goes back as far as that does.
 *
 * @param expiries ascending in years
 * @returns its position; −1 where there is none
 */
export function expiryBefore(expiries: readonly { readonly years: number }[], at: number): number {
  const latest = expiries[at]!.years - SHORTEST_YEARS;
  let before = at - 1;
  while (before >= 0 && expiries[before]!.years > latest) before--;
  return before;
}

/** The first of expiries within half a day of each other: variance between them cannot be told apart. */
export function expiriesApart<Expiry extends { readonly years: number }>(expiries: readonly Expiry[]): Expiry[] {
  return expiries.filter((_, i) => expiryBefore(expiries, i) === i - 1);
}

/**
 * Takes the variance between expiries apart into what time and what events carry. The ambient rate of a stretch with events
 * is that of the nearest stretches without any, on both sides where there are such (their mean); what is over it is shared
 * evenly by its events. Without a stretch that has none nothing can be told, and all passes with time.
 *
 * @param points ascending in years
 * @param events moments in years from now
 */
export function stretchesOf(points: readonly VariancePoint[], events: readonly number[]): Stretch[] {
  const plain = points.map(({ years, variance }, i) => {
    const before = points[i - 1] ?? { years: 0, variance: 0 };
    return {
      from: before.years,
      to: years,
      variance: Math.max(variance - before.variance, 0),
      events: events.filter((at) => at > before.years && at <= years).sort((a, b) => a - b),
    };
  });
  const rateOf = (at: number) => plain[at]!.variance / (plain[at]!.to - plain[at]!.from);
  return plain.map((stretch, i) => {
    if (stretch.events.length === 0) return { ...stretch, ambient: rateOf(i), perEvent: 0 };
    const quiet = (step: number) => {
      for (let at = i + step; at >= 0 && at < plain.length; at += step) {
        if (plain[at]!.events.length === 0) return rateOf(at);
      }
      return NaN;
    };
    const around = [quiet(-1), quiet(1)].filter(Number.isFinite);
    const usual = around.reduce((sum, rate) => sum + rate, 0) / around.length;
    const ambient = around.length > 0 ? Math.min(usual, rateOf(i)) : rateOf(i);
    const left = stretch.variance - ambient * (stretch.to - stretch.from);
    return { ...stretch, ambient, perEvent: left / stretch.events.length };
  });
}

/** What share of a stretch's variance has passed at a moment within it. */
export function shareOf({ from, to, variance, ambient, events, perEvent }: Stretch, years: number): number {
  if (!(variance > 0)) return (years - from) / (to - from);
  const passed = events.filter((at) => at <= years).length;
  return Math.min(1, Math.max(0, (ambient * (years - from) + passed * perEvent) / variance));
}

/** What an event is expected to move the price by: one deviation of its own variance, as a share of the price. */
export function eventMove({ perEvent }: Stretch): number {
  return Math.sqrt(perEvent);
}

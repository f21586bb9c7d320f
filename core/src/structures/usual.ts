/** Prices and dates that curves are told at unless others are asked for. */
const PRICES = 81;
/** Deviations on each side. */
const REACH = 3;
/** One deviation of what has no option to tell it. */
export const USUAL_DEVIATION = 0.1;

/** Prices within three deviations of another, evenly in their logarithm. */
export function pricesAround(price: number, deviation: number, count = PRICES): Float64Array {
  return Float64Array.from(
    { length: count },
    (_, i) => price * Math.exp(REACH * deviation * ((2 * i) / (count - 1) - 1)),
  );
}

/** A moment, the thirds of the way to another, and that one; the moment alone where there is no way. */
export function thirds(from: number, to: number): number[] {
  return to > from ? [from, from + (to - from) / 3, from + (2 * (to - from)) / 3, to] : [from];
}

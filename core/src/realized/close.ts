/**
 * Historical vol `close`: the sample standard deviation (mean removed, n − 1) of n logarithmic
 * close-to-close returns, annualized.
 *
 * @param close closing prices in order of time, positive
 * @param window n, at least 2; a value needs n + 1 closes
 * @param periodsPerYear bars in a year
 * @returns one value per bar, NaN until the window is full
 */
export function closeVol(close: Float64Array, window: number, periodsPerYear = 252): Float64Array {
  const out = new Float64Array(close.length).fill(NaN);
  const returns = new Float64Array(close.length);
  for (let i = 1; i < close.length; i++) returns[i] = Math.log(close[i]! / close[i - 1]!);
  for (let i = window; i < close.length; i++) {
    let mean = 0;
    for (let j = i - window + 1; j <= i; j++) mean += returns[j]!;
    mean /= window;
    let squares = 0;
    for (let j = i - window + 1; j <= i; j++) squares += (returns[j]! - mean) ** 2;
    out[i] = Math.sqrt((squares / (window - 1)) * periodsPerYear);
  }
  return out;
}

/**
 * Logarithmic moves over a number of sessions, from every session on: they overlap, so that few of them are independent.
 *
 * @param close closing prices in order of time, positive
 * @param sessions at least 1
 */
export function pastMoves(close: Float64Array, sessions: number): Float64Array {
  const count = Math.max(0, close.length - sessions);
  return Float64Array.from({ length: count }, (_, i) => Math.log(close[i + sessions]! / close[i]!)).filter(
    Number.isFinite,
  );
}

/** Moves shifted so that the price they lead to is the forward on average: the mean of their exponentials is 1. */
export function recentred(moves: Float64Array): Float64Array {
  const mean = moves.reduce((sum, move) => sum + Math.exp(move), 0) / moves.length;
  return moves.map((move) => move - Math.log(mean));
}

/**
 * Density of moves by a Gaussian kernel, its width by the rule of B. Silverman ("Density estimation for statistics and data
 * analysis", 1986, equation 3.31).
 *
 * @param independent how many of the moves are: overlapping ones say less than they are
 * @returns a function of the move; NaN with fewer than two moves
 */
export function moveDensity(moves: Float64Array, independent = moves.length): (move: number) => number {
  const count = moves.length;
  if (count < 2) return () => NaN;
  const sorted = moves.toSorted();
  const mean = moves.reduce((sum, move) => sum + move, 0) / count;
  const deviation = Math.sqrt(moves.reduce((sum, move) => sum + (move - mean) ** 2, 0) / (count - 1));
  const quartile = (share: number) => sorted[Math.min(count - 1, Math.floor(share * count))]!;
  const spread = Math.min(deviation, (quartile(0.75) - quartile(0.25)) / 1.34) || deviation;
  const width = 0.9 * spread * Math.max(2, independent) ** -0.2;
  const scale = 1 / (count * width * Math.sqrt(2 * Math.PI));
  return (move) => {
    let sum = 0;
    for (let i = 0; i < count; i++) sum += Math.exp(-0.5 * ((move - moves[i]!) / width) ** 2);
    return sum * scale;
  };
}

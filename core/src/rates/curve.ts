/** Nodes of a rate curve, ascending in days; rates are continuously compounded decimals per year. */
export interface RateCurve {
  readonly days: readonly number[];
  readonly rate: readonly number[];
}

/**
 * The rate for a maturity: linear between the nodes, flat outside them, 0 for an empty curve.
 *
 * @param curve nodes
 * @param days maturity in calendar days, fractions allowed
 */
export function rateAt(curve: RateCurve, days: number): number {
  const { days: nodes, rate } = curve;
  if (nodes.length === 0) return 0;
  if (days <= nodes[0]!) return rate[0]!;
  for (let i = 1; i < nodes.length; i++) {
    if (days > nodes[i]!) continue;
    const share = (days - nodes[i - 1]!) / (nodes[i]! - nodes[i - 1]!);
    return rate[i - 1]! + share * (rate[i]! - rate[i - 1]!);
  }
  return rate[rate.length - 1]!;
}

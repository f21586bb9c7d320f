import { priceContract, type Contract } from '../models';

/** Call and put of one strike, sold. */
export interface SoldStraddle {
  readonly call: Contract;
  readonly put: Contract;
}

/** What the seller holds at a price of the underlying, for one unit of the straddle. */
export interface HedgePoint {
  price: number;
  /** Delta of the sold straddle. */
  delta: number;
  gamma: number;
  /** What it is worth to buy back. */
  value: number;
  /** Units of the underlying that are held against it: −delta. */
  hedge: number;
}

const at = (contract: Contract, price: number): Contract =>
  contract.forward === undefined ? { ...contract, spot: price } : { ...contract, forward: price };

/** The sold straddle at prices of the underlying (of the future for contracts on a forward), with the vols of both held. */
export function straddleHedge({ call, put }: SoldStraddle, prices: readonly number[]): HedgePoint[] {
  return prices.map((price) => {
    const both = [priceContract(at(call, price), 'fast'), priceContract(at(put, price), 'fast')];
    const sum = (name: 'delta' | 'gamma' | 'price') => both.reduce((total, one) => total + one[name], 0);
    const delta = -sum('delta');
    return { price, delta, gamma: -sum('gamma'), value: sum('price'), hedge: -delta };
  });
}

/**
 * Where the hedge of a sold straddle moves fastest, and between which prices it moves at least half as fast.
 *
 * @param points ascending in price
 */
export function fastestHedge(points: readonly HedgePoint[]): { price: number; from: number; to: number } | null {
  const size = ({ gamma }: HedgePoint) => Math.abs(gamma);
  const known = points.filter((point) => Number.isFinite(point.gamma));
  if (known.length === 0) return null;
  const peak = known.reduce((best, point) => (size(point) > size(best) ? point : best));
  const fast = known.filter((point) => size(point) >= 0.5 * size(peak));
  return { price: peak.price, from: fast[0]!.price, to: fast.at(-1)!.price };
}

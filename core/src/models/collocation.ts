/**
 * Tables of the collocation of an exercise boundary: Gauss–Legendre abscissae, Chebyshev nodes in √τ, and the weights
 * that interpolate from the nodes to where the integrals look.
 */

import { gaussLegendre } from '../distributions';

/** A setting: how many of each, and how the abscissae lie. */
export interface CollocationSize {
  /** Abscissae of the integrals that the boundary satisfies. */
  abscissae: number;
  /** Fixed-point steps. */
  steps: number;
  /** Steps of Newton's method after these, at most: it ends when nothing moves any longer. */
  newton: number;
  /** Nodes of the boundary, beside the one at expiry. */
  nodes: number;
  /** Abscissae of the premium. */
  premium: number;
  /** Newton steps of the starting boundary. */
  start: number;
  /**
   * 1 for abscissae as they are; 2 lets them crowd where the boundary is near expiry: there it leaves like √(τ ln τ), and
   * plain ones converge with the third power of their number only.
   */
  crowding: 1 | 2;
}

/** The tables of a setting, with room to work in. A cell is an abscissa of a node. */
export interface Collocation extends CollocationSize {
  /** √(τ/T) of the nodes. */
  readonly root: Float64Array;
  /** Abscissa and weight of each cell. */
  readonly cellH: Float64Array;
  readonly cellWeight: Float64Array;
  /** Interpolation from the nodes: `nodes` weights for each cell, then for each abscissa of the premium. */
  readonly toCell: Float64Array;
  readonly premiumH: Float64Array;
  readonly premiumWeight: Float64Array;
  readonly toPremium: Float64Array;
  /** Weights of the premium with what is earned on the strike and forgone on the spot, and whose they are. */
  readonly onStrike: Float64Array;
  readonly onSpot: Float64Array;
  readonly discounted: Float64Array;
  /** By nodes: time to expiry, deviation over it, ln B, and ln² (B/X), which is what is interpolated. */
  readonly tau: Float64Array;
  readonly deviation: Float64Array;
  readonly logBoundary: Float64Array;
  readonly square: Float64Array;
  /** Rate, yield, vol and years that the boundary is of. */
  readonly solved: Float64Array;
  /** Rate, yield and years that `drift`, `rateTime` and `yieldFactor` are of. */
  readonly timed: Float64Array;
  /** By cells. */
  readonly drift: Float64Array;
  readonly cellDeviation: Float64Array;
  /** ln (B/X) at the cell, by its size. */
  readonly cellRoot: Float64Array;
  readonly inverse: Float64Array;
  readonly rateTime: Float64Array;
  readonly yieldFactor: Float64Array;
  readonly upper: Float64Array;
  readonly upperExponent: Float64Array;
  readonly lowerExponent: Float64Array;
  readonly cellSlope: Float64Array;
  /** Of the system that a step solves. */
  readonly image: Float64Array;
  readonly ownSlope: Float64Array;
  readonly move: Float64Array;
  readonly matrix: Float64Array;
}

/** Abscissae h of the integrals over u = τ(1 − h²), crowded or not. */
function abscissae(count: number, crowding: 1 | 2) {
  const { x, weight } = gaussLegendre(count);
  if (crowding === 1) return { h: x, weight };
  return {
    h: x.map((s) => s * (2 - s)),
    weight: weight.map((w, i) => 2 * w * (1 - x[i]!)),
  };
}

/** Makes the tables of a setting. */
export function makeCollocation(size: CollocationSize): Collocation {
  const { nodes, crowding } = size;
  const cells = nodes * size.abscissae;
  const { h, weight } = abscissae(size.abscissae, crowding);
  const { h: premiumH, weight: premiumWeight } = abscissae(size.premium, crowding);
  const chebyshev = Float64Array.from({ length: nodes + 1 }, (_, j) => Math.cos((Math.PI * j) / nodes));
  // Barycentric weights (Berrut & Trefethen, "Barycentric Lagrange interpolation", 2004); the node at expiry, the last
  // one, carries zero and needs none.
  const interpolate = (at: number, into: Float64Array, from: number) => {
    const terms = Array.from(chebyshev, (z, j) => {
      const half = j === 0 || j === nodes ? 0.5 : 1;
      return ((j % 2 === 0 ? 1 : -1) * half) / (at - z);
    });
    const sum = terms.reduce((total, term) => total + term, 0);
    for (let j = 0; j < nodes; j++) into[from + j] = terms[j]! / sum;
  };
  const root = Float64Array.from({ length: nodes }, (_, i) => (1 + chebyshev[i]!) / 2);
  const toCell = new Float64Array(cells * nodes);
  const toPremium = new Float64Array(size.premium * nodes);
  /** Off the nodes by less than any digit, where the quotient above does not exist. */
  const OFF = 1e-15;
  const position = (share: number) => 2 * share - 1 + OFF;
  for (let i = 0, cell = 0; i < nodes; i++) {
    for (const x of h) interpolate(position(root[i]! * Math.sqrt(1 - x * x)), toCell, nodes * cell++);
  }
  premiumH.forEach((x, k) => interpolate(position(Math.sqrt(1 - x * x)), toPremium, nodes * k));
  const perNode = () => new Float64Array(nodes);
  const perCell = () => new Float64Array(Math.max(cells, size.premium));
  return {
    ...size,
    root,
    cellH: Float64Array.from({ length: cells }, (_, cell) => h[cell % size.abscissae]!),
    cellWeight: Float64Array.from({ length: cells }, (_, cell) => weight[cell % size.abscissae]!),
    toCell,
    premiumH,
    premiumWeight,
    toPremium,
    onStrike: new Float64Array(size.premium),
    onSpot: new Float64Array(size.premium),
    discounted: new Float64Array(3).fill(NaN),
    tau: perNode(),
    deviation: perNode(),
    logBoundary: perNode(),
    square: perNode(),
    solved: new Float64Array(4).fill(NaN),
    timed: new Float64Array(3).fill(NaN),
    drift: perCell(),
    cellDeviation: perCell(),
    cellRoot: perCell(),
    inverse: perCell(),
    rateTime: perCell(),
    yieldFactor: perCell(),
    upper: perCell(),
    upperExponent: perCell(),
    lowerExponent: perCell(),
    cellSlope: perCell(),
    image: perNode(),
    ownSlope: perNode(),
    move: perNode(),
    matrix: new Float64Array(nodes * nodes),
  };
}

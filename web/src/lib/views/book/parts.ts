import type { Numeraire, RiskNode } from '@umwelt/core';
import type { RiskLeg } from '$lib/book';
import type { Reach } from './params';

/** Moves of the price and shifts of vol, by how far they go. */
export const AXES: Record<Reach, { moves: number[]; volShifts: number[] }> = {
  usual: {
    moves: [-0.1, -0.07, -0.05, -0.03, 0, 0.03, 0.05, 0.07, 0.1],
    volShifts: [0.12, 0.08, 0.04, 0, -0.02, -0.04, -0.06],
  },
  gaps: {
    moves: [-0.4, -0.3, -0.2, -0.1, 0, 0.1, 0.2, 0.3, 0.4],
    volShifts: [0.4, 0.25, 0.15, 0, -0.05, -0.1],
  },
};

const DAY_MS = 86_400_000;

/** So many days after a moment. */
export const daysAfter = (moment: string, days: number): string =>
  new Date(Date.parse(moment) + days * DAY_MS).toISOString();

/** The last moment before another one. */
export const justBefore = (moment: string): string => new Date(Date.parse(moment) - 1).toISOString();

/** Underlyings of some legs. */
export const symbolsOf = (legs: readonly RiskLeg[]): string[] =>
  [...new Set(legs.map(({ contract }) => contract.symbol))].sort();

/**
 * In whose price moves are told: that of an underlying, for its family by their ratios; or of one that all have a beta to.
 *
 * @returns null where each is told in its own
 */
export function numeraireOf(legs: readonly RiskLeg[], told: string | null, beta: string | null): Numeraire | null {
  const base = legs.find(({ contract }) => contract.symbol === (beta ?? told));
  if (beta !== null) {
    const price = base?.price ?? 1;
    return { price, ratioOf: (leg) => ((leg as RiskLeg).row.beta ?? 1) * (leg.price / price) };
  }
  if (!base) return null;
  const own = base.row.ratio ?? 1;
  return {
    price: base.price,
    ratioOf: (leg) => (leg.family === base.family ? ((leg as RiskLeg).row.ratio ?? own) / own : leg.price / base.price),
  };
}

/** A part in view, and how deep it lies. */
export interface PartRow {
  node: RiskNode;
  depth: number;
  isOpen: boolean;
}

/** Whether all of a part was closed before what profits are told since: it would be a line of nothing. */
const isOver = ({ legs, sums }: RiskNode): boolean =>
  legs.every(({ quantity }) => quantity === 0) && sums.sinceClose === 0 && !(Math.abs(sums.sinceGhost) > 0);

/** Parts whose whole is opened. */
export function partRows(tree: RiskNode | null, opened: readonly string[]): PartRow[] {
  const open = new Set(opened);
  const rows: PartRow[] = [];
  const visit = (node: RiskNode, depth: number) => {
    if (isOver(node)) return;
    const isOpen = open.has(node.key);
    rows.push({ node, depth, isOpen });
    if (isOpen) for (const part of node.parts) visit(part, depth + 1);
  };
  for (const family of tree?.parts ?? []) visit(family, 0);
  return rows;
}

import type { FoundRow } from '@umwelt/core';
import { figures } from '$lib/formats';

/** A step of the sum that edges are: an amount, from where to where; sums go from nothing. */
export interface EdgeStep {
  words: string;
  title: string;
  amount: number;
  from: number;
  to: number;
  /** One standard error; NaN without. */
  error: number;
  isSum: boolean;
}

/**
 * The edges of a row in money a contract, each made of the one before: from the middle to the fill, to the curve, to one's own vol, to the
 * past. What is not known is left out.
 */
export function edgeSteps({ measures, multiplier, ownVol, legs }: FoundRow): EdgeStep[] {
  const steps: EdgeStep[] = [];
  const money = (key: 'edges.curve.money' | 'edges.ownVol.money' | 'edges.past.money' | 'edges.peers.money') =>
    measures[key] * multiplier;
  const paid = (measures.mid - measures.cost) * multiplier;
  let sum = 0;
  const step = (words: string, title: string, amount: number) => {
    steps.push({ words, title, amount, from: sum, to: sum + amount, error: NaN, isSum: false });
    sum += amount;
  };
  const total = (words: string, title: string, amount: number, error = NaN) => {
    steps.push({ words, title, amount, from: 0, to: amount, error, isSum: true });
    sum = amount;
  };
  const first = Number.isFinite(measures['edges.curve.money']) ? 'curve' : 'peers';
  const curve = money(`edges.${first}.money`);
  const by = first === 'curve' ? 'the curve' : 'peers';
  const vols = legs.map(({ vol }) => vol).filter(Number.isFinite);
  const mean = vols.reduce((all, vol) => all + vol, 0) / vols.length;
  if (Number.isFinite(curve)) {
    step(
      `mid under ${by}`,
      `what it is worth by ${by}, each contract without its own say, less its middle`,
      curve - paid,
    );
    step('fill off the mid', 'the share of the half spread that is paid, and the fees', paid);
    total(`edge to ${by}`, 'worth less what it is entered at', curve, measures[`edges.${first}.error`] * multiplier);
  } else step('fill off the mid', 'the share of the half spread that is paid, and the fees', paid);
  const own = money('edges.ownVol.money');
  if (Number.isFinite(own)) {
    step(
      `vol ${figures.vol(mean)} → ${figures.vol(ownVol)}`,
      'from the vols of its strikes to the vol of one’s own',
      own - sum,
    );
    total('edge to own vol', 'worth by one’s own vol less what it is entered at', own);
  }
  const past = money('edges.past.money');
  if (Number.isFinite(past)) {
    step('past, with its tails', 'from there to the law of past moves of the same length', past - sum);
    total(
      'edge to the past',
      'worth by past moves less what it is entered at; the bar is one standard error to each side',
      past,
      measures['edges.past.error'] * multiplier,
    );
  }
  return steps;
}

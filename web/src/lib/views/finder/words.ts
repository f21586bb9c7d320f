import type { FoundRow } from '@umwelt/core';
import { figures } from '$lib/formats';
import type { FinderShown } from './desk.svelte';
import { nameOf } from './rows';

const share = (value: number) => figures.percent(Math.abs(value), 1);

/** What was found, as somebody would say it. */
export function foundSentence(
  { made, within, bestOfNone, dominated, further }: FinderShown,
  rows: readonly FoundRow[],
): string {
  const [first] = rows;
  const parts = [`${figures.count(within)} of ${figures.count(made)} stay within your limits`];
  const pay = (key: 'edges.past.money' | 'edges.curve.money' | 'edges.ownVol.money') =>
    rows.filter(({ measures }) => measures[key] > 0).length;
  const many = (count: number) => (count === 0 ? 'none' : count === rows.length ? 'all' : figures.count(count));
  if (rows.length > 1)
    parts.push(
      `of the ${figures.counted(rows.length, 'row')} ${many(pay('edges.past.money'))} pay against the past, ${many(pay('edges.ownVol.money'))} against your vol, ${many(pay('edges.curve.money'))} against the curve`,
    );
  const hidden = [
    ...(further > 0 ? [`${figures.count(further)} stand behind the best of their group`] : []),
    ...(dominated > 0 ? [`${figures.count(dominated)} are dominated`] : []),
  ];
  const lead = first ? ` ${leadWords(first)}` : '';
  const errors = first ? first.measures['edges.past.money'] / first.measures['edges.past.error'] : NaN;
  const luck = Number.isFinite(errors)
    ? ` Its edge to the past is ${figures.fixed(errors, 1)} of its errors, by ${figures.counted(first!.independent, 'independent move')}; the best of so many would show up to ${figures.fixed(bestOfNone, 1)} without any edge.`
    : '';
  return `${parts.join('; ')}${hidden.length > 0 ? `; ${hidden.join(', ')}` : ''}.${lead}${luck}`;
}

function leadWords(row: FoundRow): string {
  const { symbol, measures } = row;
  const past = measures['edges.past.ofRisk'];
  const curve = measures['edges.curve.ofRisk'];
  const said = [
    ...(Number.isFinite(curve) ? [`to the curve it ${curve < 0 ? 'costs' : 'gains'} ${share(curve)} of risk`] : []),
    ...(Number.isFinite(past) ? [`moves as they were would ${past < 0 ? 'cost' : 'give'} ${share(past)}`] : []),
  ];
  return `${symbol} ${nameOf(row)} leads: ${said.join(', ')}.`;
}

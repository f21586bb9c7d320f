import { isOptionLeg, type FoundLeg, type FoundRow } from '@umwelt/core';
import { figures } from '$lib/formats';

/** What may be wrong with a row. */
export interface Weakness {
  /** In two or three words. */
  short: string;
  sentence: string;
  /** How bad it is: 1 is where one would look twice. */
  weight: number;
}

type OptionLeg = Extract<FoundLeg, { strike: number }>;

const contractWords = ({ strike, side }: OptionLeg) => `${figures.strike(strike)} ${side}`;

/** Few lots, an open interest and a quality that are thin (common practice). */
const THIN_LOTS = 10;
const THIN_OPEN = 100;
const THIN_QUALITY = 60;
const LIKELY_TOUCH = 0.6;
const FEW_MOVES = 6;

function leastOf(legs: readonly FoundLeg[], field: 'volume' | 'openInterest'): OptionLeg | null {
  return legs
    .filter(isOptionLeg)
    .reduce<OptionLeg | null>((least, leg) => (!least || !(leg[field] >= least[field]) ? leg : least), null);
}

/** What is weak of a row, the worst first. */
export function weaknessesOf({ legs, measures, multiplier, independent }: FoundRow): Weakness[] {
  const found: Weakness[] = [];
  const add = (short: string, sentence: string, weight: number) => {
    if (weight > 0) found.push({ short, sentence, weight });
  };
  const traded = leastOf(legs, 'volume');
  const open = leastOf(legs, 'openInterest');
  if (traded) {
    const lots = Number.isFinite(traded.volume) ? figures.counted(traded.volume, 'lot') : 'no lots known';
    add(`${lots} a day`, `the ${contractWords(traded)} trades ${lots} a day`, THIN_LOTS / (1 + (traded.volume || 0)));
  }
  if (open)
    add(
      `${figures.count(open.openInterest)} open`,
      `of the ${contractWords(open)} ${figures.count(open.openInterest)} are open`,
      THIN_OPEN / (20 + (open.openInterest || 0)),
    );
  const edge = measures['edges.past.money'];
  const error = measures['edges.past.error'];
  if (edge > 0)
    add(
      `${figures.counted(independent, 'past move')}`,
      `the past holds ${figures.counted(independent, 'independent move')} of that length`,
      FEW_MOVES / (1 + independent),
    );
  const paid = measures.cost - measures.mid;
  const money = (value: number) => figures.signed(value * multiplier, 0);
  if (edge > 0 && error > 0)
    add(
      `error ${figures.percent(error / measures.capital, 0)}`,
      `±${figures.fixed(error * multiplier, 0)} is the error of the past’s ${money(edge)}`,
      error / edge,
    );
  if (edge > 0 && paid > 0) {
    const share = paid / (edge + paid);
    add(
      `spread eats ${figures.percent(share, 0)}`,
      `the spread eats ${figures.percent(share, 0)} of the edge to the past`,
      3 * share,
    );
  }
  if (measures.announcements > 0)
    add(
      figures.counted(measures.announcements, 'announcement'),
      `${figures.counted(measures.announcements, 'announcement')} fall into its life`,
      0.8,
    );
  if (measures.touch > LIKELY_TOUCH)
    add(
      `touch ${figures.percent(measures.touch, 0)}`,
      `a sold strike is met on the way with odds of ${figures.percent(measures.touch, 0)}`,
      measures.touch,
    );
  const quality = measures['weakest.quality'];
  if (quality < THIN_QUALITY)
    add(`quality ${figures.fixed(quality, 0)}`, `its expiry has a quality of ${figures.fixed(quality, 0)}`, 1.2);
  if (measures.maxLoss === Infinity) add('loss without end', 'its loss has no end', 1.5);
  return found.sort((a, b) => b.weight - a.weight);
}

/** The weakest point of a row in a sentence. */
export function weakestSentence(row: FoundRow): string {
  const [first, second] = weaknessesOf(row);
  if (!first) return 'Nothing of it is thin.';
  const both = second && second.weight > 0.5 ? `${first.sentence}, and ${second.sentence}` : first.sentence;
  return `${both.charAt(0).toUpperCase()}${both.slice(1)}.`;
}

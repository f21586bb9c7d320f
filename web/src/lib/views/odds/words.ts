import type { InsideCount, ExpectedStep, MoveMeasure, StepKind, ExpiryId } from '@umwelt/core';
import { figures, shortDay, shortExpiry, type Sentence } from '$lib/formats';

const STEP_WORDS: Record<StepKind, { one: string; many: string; now: string }> = {
  day: { one: 'day', many: 'days', now: 'Today' },
  week: { one: 'week', many: 'weeks', now: 'This week' },
  expiry: { one: 'expiry', many: 'expiries', now: 'The one under way' },
};

/** Where a step that is under way stands: 1.3 expected moves up, 2 sessions left. */
export function standingWords({ times, left }: Pick<ExpectedStep, 'times' | 'left'>): string {
  const way = times < 0 ? 'down' : 'up';
  return `${figures.fixed(Math.abs(times), 1)} expected moves ${way}, ${figures.counted(left, 'session')} left`;
}

/** How often moves stayed inside, against what a fair one does, and where the one under way stands. */
export function insideSentence(
  { complete, inside, over, under, fair }: InsideCount,
  kind: StepKind,
  measure: MoveMeasure,
  open: ExpectedStep | undefined,
): Sentence {
  const { one, many, now } = STEP_WORDS[kind];
  const standing = open ? ` ${now} stands at ${standingWords(open)}.` : '';
  if (complete === 0) return { lead: `No ${one} is over yet`, rest: `that an expected move is held of.${standing}` };
  // Two standard deviations of a share: chance alone stays within it 19 times in 20.
  const noise = 2 * Math.sqrt((fair * (1 - fair)) / complete);
  const share = inside / complete;
  const verdict =
    Math.abs(share - fair) <= noise
      ? 'as chance has it'
      : share > fair
        ? 'the moves were dear'
        : 'the moves were cheap';
  const what = measure === 'straddle' ? 'a fair straddle' : 'one fair deviation';
  return {
    lead: `${figures.count(inside)} of ${figures.count(complete)} ${complete === 1 ? one : many} stayed inside`,
    rest: `(${figures.percent(share, 0)}; ${what} gives ${figures.percent(fair, 0)} ± ${figures.fixed(100 * noise, 0)}: ${verdict}), ${figures.count(over)} went over and ${figures.count(under)} under.${standing}`,
  };
}

/** How far the market expects the price to move, and what the front carries. */
export function movesSentence(
  rows: readonly (ExpiryId & { ratio: number; straddle: number; isZeroDay: boolean; minutes: number })[],
  event: { title: string; day: string; move: number } | null,
): Sentence {
  const ratios = rows.map(({ ratio }) => ratio).filter(Number.isFinite);
  if (ratios.length === 0)
    return { lead: 'No straddle is quoted on both sides.', rest: 'One deviation of the curve is all there is.' };
  const [low, high] = [Math.min(...ratios), Math.max(...ratios)];
  const range =
    high - low < 0.02
      ? `${figures.fixed((low + high) / 2, 2)} of a deviation in all ${figures.count(ratios.length)}`
      : `between ${figures.fixed(low, 2)} and ${figures.fixed(high, 2)} of a deviation`;
  const zero = rows.find(({ isZeroDay }) => isZeroDay);
  const today = zero ? ` ${shortExpiry(zero)} ends today: ${figures.fixed(zero.minutes, 0)} minutes are counted.` : '';
  const ahead = event
    ? ` ${event.title} on ${shortDay(event.day)} carries ${figures.percent(event.move, 2)} by itself.`
    : '';
  return {
    lead: `The straddle is ${range}`,
    rest: `(common practice says 0.8, without skew it is 0.798).${today}${ahead}`,
  };
}

/** Odds that differ by less are the same on screen. */
const SAME_ODDS = 0.001;

/** Which zone the laws differ most about. */
export function zonesSentence(
  zones: readonly { words: string; odds: readonly { name: string; odds: number }[] }[],
  expiry: ExpiryId,
  humps: readonly number[],
  decimals: number,
): Sentence {
  const apart = zones.flatMap(({ words, odds }) => {
    const known = odds.filter((one) => Number.isFinite(one.odds)).toSorted((a, b) => a.odds - b.odds);
    const [low, high] = [known[0], known.at(-1)];
    return low && high && known.length > 1 ? [{ words, low, high, by: high.odds - low.odds }] : [];
  });
  const two =
    humps.length > 1
      ? ` The curve has ${humps.length === 2 ? 'two' : figures.count(humps.length)} humps, at ${humps.map((price) => figures.fixed(price, decimals)).join(' and ')}.`
      : '';
  const [most] = apart.toSorted((a, b) => b.by - a.by);
  if (!most) return { lead: `${shortExpiry(expiry)}:`, rest: `there is one law only to go by.${two}` };
  if (most.by < SAME_ODDS) return { lead: `${shortExpiry(expiry)}:`, rest: `the laws agree about these zones.${two}` };
  return {
    lead: `${shortExpiry(expiry)}: the laws differ most about ${most.words},`,
    rest: `${figures.percent(most.low.odds)} by ${most.low.name} and ${figures.percent(most.high.odds)} by ${most.high.name}.${two}`,
  };
}

/** Where open contracts are worth least; a theory, and said to be one. */
export function painSentence(
  strike: number,
  price: number,
  path: readonly { strike: number | null; price: number | null }[],
): Sentence {
  const known = path.filter((row) => row.strike !== null && row.price !== null);
  const nearer =
    known.length > 1
      ? Math.abs(known.at(-1)!.price! - known.at(-1)!.strike!) < Math.abs(known[0]!.price! - known[0]!.strike!)
        ? 'nearer than'
        : 'no nearer than'
      : '';
  const was = nearer ? ` The price is ${nearer} ${figures.counted(known.length - 1, 'session')} ago.` : '';
  return {
    lead: `Open contracts are worth least at ${figures.strike(strike)},`,
    rest: `${figures.percent(Math.abs(strike / price - 1))} ${strike < price ? 'under' : 'over'} the price.${was} That prices are drawn there is a theory, and a disputed one.`,
  };
}

/** What the seller of the straddle has to do. */
export function hedgeSentence(
  hedgeAt: (price: number) => number,
  { price, low, high }: { price: number; low: number; high: number },
  fastest: { price: number; from: number; to: number } | null,
  decimals: number,
): Sentence {
  const units = (value: number) => figures.signed(value, 2);
  const [now, down, up] = [hedgeAt(price), hedgeAt(low), hedgeAt(high)];
  const speed = fastest
    ? ` Fastest near ${figures.fixed(fastest.price, decimals)}; half as fast from ${figures.fixed(fastest.from, decimals)} to ${figures.fixed(fastest.to, decimals)}.`
    : '';
  return {
    lead: `A sold straddle holds ${units(now)} now,`,
    rest: `sells ${figures.fixed(Math.abs(down - now), 2)} on the way to the lower level, buys ${figures.fixed(Math.abs(up - now), 2)} to the upper one; beyond them it goes on to one unit.${speed}`,
  };
}

import {
  REASONS,
  leanOf,
  reasonName,
  termState,
  type BorrowedFrom,
  type Cause,
  type ContractView,
  type CurveKind,
  type CurveShape,
  type Difference,
  type ExpiryAside,
  type ExpiryFit,
  type Rank,
  type Reason,
  type Zone,
  type ExpiryId,
} from '@umwelt/core';
import { exactMoment, shortDay, shortExpiry, shortName } from './dates';
import * as figures from './figures';

/** A finding, with the part that is to be seen first. */
export interface Sentence {
  lead: string;
  rest: string;
}

const NUMBER_WORDS = [
  'no',
  'one',
  'two',
  'three',
  'four',
  'five',
  'six',
  'seven',
  'eight',
  'nine',
  'ten',
  'eleven',
  'twelve',
];

/** Small numbers as words, as a colleague would say them. */
export function inWords(number: number): string {
  return NUMBER_WORDS[number] ?? figures.count(number);
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

function monthWords(month: { day: string; then: number; now: number } | null): string {
  if (!month || !Number.isFinite(month.then + month.now)) return '';
  return ` At 30 days RR is ${figures.volChange(month.now)}, on ${month.day} it was ${figures.volChange(month.then)}.`;
}

/** How the skews lean, and how the one in focus has changed since another moment. */
export function skewSentence(
  fits: readonly Pick<ExpiryFit, 'riskReversal25'>[],
  focus: Pick<ExpiryFit, 'riskReversal25' | 'expiry' | 'settlement'>,
  before: { day: string; riskReversal25: number } | null,
  month: { day: string; then: number; now: number } | null = null,
): Sentence {
  const leans = fits.filter((fit) => Number.isFinite(fit.riskReversal25)).map((fit) => leanOf(fit.riskReversal25));
  if (leans.length === 0) return { lead: 'No skew.', rest: 'No expiry has enough strikes for a curve.' };
  const most = (['put-rich', 'call-rich', 'even'] as const).toSorted(
    (a, b) => leans.filter((lean) => lean === b).length - leans.filter((lean) => lean === a).length,
  )[0]!;
  const agreeing = leans.filter((lean) => lean === most).length;
  const all =
    agreeing === leans.length
      ? leans.length === 1
        ? 'the only expiry'
        : `${agreeing === 2 ? 'both' : `all ${inWords(agreeing)}`} expiries`
      : '';
  const lead = `${capital(most)} in ${all || `${inWords(agreeing)} of ${inWords(leans.length)} expiries`}.`;
  const riskReversal = focus.riskReversal25;
  if (!Number.isFinite(riskReversal)) return { lead, rest: `${shortExpiry(focus)} has too few strikes for a skew.` };
  const dear = riskReversal < 0 ? 'put' : 'call';
  const cheap = riskReversal < 0 ? 'call' : 'put';
  const now = `${shortExpiry(focus)}: the 25-delta ${dear} trades ${figures.vol(Math.abs(riskReversal))} points over the ${cheap}`;
  if (!before || !Number.isFinite(before.riskReversal25)) return { lead, rest: `${now}.${monthWords(month)}` };
  const then = (riskReversal < 0 ? -1 : 1) * before.riskReversal25;
  const was = then >= 0 ? `was ${figures.vol(then)}` : `lay ${figures.vol(-then)} under it`;
  return { lead, rest: `${now}; on ${before.day} it ${was}.` };
}

/** How far a forward may be from the price before one of them is doubted: common practice. */
const FAR_FORWARD = 1.25;

/**
 * What is missing of an expiry, or cannot be true of it; null where there is nothing to say.
 *
 * @param price of the underlying, NaN where the forward may stand anywhere
 */
export function lackSentence(
  {
    forward,
    curve,
    refused,
    contracts,
    usable,
    ...expiry
  }: Pick<ExpiryFit, 'expiry' | 'settlement' | 'forward' | 'curve' | 'contracts' | 'usable'> & {
    refused?: readonly number[];
  },
  price: number,
): Sentence | null {
  const day = shortExpiry(expiry);
  if (!curve) {
    const most = Math.max(0, ...(refused ?? []).slice(1));
    const reason = most > 0 ? REASONS[refused!.indexOf(most, 1)]! : null;
    const why = reason
      ? `${most === contracts ? 'All' : figures.count(most)} of its ${figures.counted(contracts, 'contract')}: ${reasonWords(reason)}.`
      : 'Nothing is quoted.';
    return { lead: `${day} has no curve.`, rest: why.replace('All of its', 'All its') };
  }
  if (forward / price > FAR_FORWARD || price / forward > FAR_FORWARD)
    return {
      lead: `The forward of ${day} does not fit the price:`,
      rest: `by its quotes it is ${figures.fixed(forward, 2)}, while the underlying stands at ${figures.fixed(price, 2)}. One of them is wrong.`,
    };
  if (curve.kind === 'flat')
    return {
      lead: `${day} has one vol for all strikes:`,
      rest: `${figures.counted(usable, 'contract')} with a vol ${usable === 1 ? 'is' : 'are'} too few for a curve.`,
    };
  return null;
}

/**
 * Where the wings of a curve stand in the band of its past.
 *
 * @param band its places, and the shares of sessions that lay under what is now
 * @param isShape whether wings are compared over the money
 */
export function bandWords(
  { at, under, sessions }: { at: ArrayLike<number>; under: ArrayLike<number>; sessions: number },
  isShape: boolean,
): string {
  const share = (deviations: number) => {
    let nearest = 0;
    for (let i = 1; i < at.length; i++) {
      if (Math.abs(at[i]! - deviations) < Math.abs(at[nearest]! - deviations)) nearest = i;
    }
    return under[nearest]!;
  };
  const [put, call] = [share(-1), share(1)];
  if (!Number.isFinite(put + call)) return '';
  const what = isShape ? 'What it asks over the money one deviation' : 'Its vol one deviation';
  return `${what} under is higher than in ${figures.percent(put, 0)} of ${figures.counted(sessions, 'session')}, over than in ${figures.percent(call, 0)}.`;
}

/** How other underlyings stand against an expiry, at its time. */
export function comparedSentence(
  own: Pick<ExpiryFit, 'expiry' | 'settlement' | 'days' | 'atmVol' | 'riskReversal25'>,
  others: readonly { symbol: string; isMirrored: boolean; atmVol: number; riskReversal25: number }[],
): Sentence {
  const known = others.filter(({ atmVol }) => Number.isFinite(atmVol));
  const lead = `At ${figures.days(own.days)} days`;
  if (known.length === 0) return { lead: `${lead} nothing can be compared.`, rest: 'The others have no curve.' };
  const parts = known.map(({ symbol, isMirrored, atmVol, riskReversal25 }) => {
    const gap = atmVol - own.atmVol;
    const level = `${symbol} stands ${figures.vol(Math.abs(gap))} points ${gap < 0 ? 'under' : 'over'} at the money`;
    return `${level}, its RR 25 is ${figures.volChange(riskReversal25)}${isMirrored ? ' mirrored' : ''}`;
  });
  return { lead: `${lead} RR 25 is ${figures.volChange(own.riskReversal25)}:`, rest: `${parts.join('; ')}.` };
}

/**
 * Where a map has its lowest and its highest values, or where it has changed most.
 *
 * @param ghostDay the day that it is compared with, or null
 */
export function mapSentence(
  { name, unit, scale }: { name: string; unit: string; scale: number },
  map: { rows: readonly ArrayLike<number>[]; place: (row: number, column: number) => string },
  ghostDay: string | null,
): Sentence {
  let low = { value: Infinity, i: 0, j: 0 };
  let high = { value: -Infinity, i: 0, j: 0 };
  map.rows.forEach((row, i) => {
    for (let j = 0; j < row.length; j++) {
      const value = row[j]!;
      if (value < low.value) low = { value, i, j };
      if (value > high.value) high = { value, i, j };
    }
  });
  if (!(low.value <= high.value))
    return { lead: 'Nothing to show.', rest: 'No strike is near enough to say anything.' };
  const text = (value: number) => `${figures.significant(scale * value, 3)}${unit === '%' ? ' %' : ''}`;
  const where = ({ i, j }: { i: number; j: number }) => map.place(i, j);
  if (ghostDay !== null) {
    const most = -low.value > high.value ? low : high;
    const way = most.value < 0 ? 'fallen' : 'risen';
    return {
      lead: `${capital(name)} has ${way} most since ${ghostDay}`,
      rest: `at ${where(most)}, by ${text(Math.abs(most.value))}.`,
    };
  }
  // What falls to nothing has no lowest place.
  if (Math.abs(low.value) < NOTHING_SHARE * Math.abs(high.value))
    return { lead: `${capital(name)} up to ${text(high.value)}`, rest: `at ${where(high)}.` };
  return {
    lead: `${capital(name)} from ${text(low.value)} to ${text(high.value)}:`,
    rest: `lowest at ${where(low)}, highest at ${where(high)}.`,
  };
}

const NOTHING_SHARE = 0.01;

/** Which curve stands for an expiry. */
export const CURVE_WORDS: Record<CurveKind, string> = {
  svi: 'raw SVI, five parameters',
  svi3: 'SVI with three parameters, as few points or even ones need no more',
  flat: 'one vol: too few points for a curve',
  mixture: 'a mixture of lognormals: one curvature could not follow the quotes',
  borrowed: 'taken from another expiry, and not fitted to these quotes',
};
const CURVE_NAMES: Record<CurveKind, string> = {
  svi: 'SVI',
  svi3: 'SVI of three',
  flat: 'flat',
  mixture: 'mixture',
  borrowed: 'borrowed',
};

/** How much is set aside, and why most of it. */
export function asideSentence(fits: readonly Pick<ExpiryFit, 'aside' | 'expiryAside' | 'contracts'>[]): Sentence {
  const reasons = fits.flatMap(({ aside }) => aside.map(({ reason }) => reasonName(reason)));
  const whole = fits.filter(({ expiryAside }) => expiryAside !== null).length;
  const expiries =
    whole > 0 ? ` ${capital(figures.counted(whole, 'whole expiry').replace('expirys', 'expiries'))} beside.` : '';
  if (reasons.length === 0) return { lead: 'Every quote with a vol is in use.', rest: expiries.trim() };
  const byHand = reasons.filter((reason) => reason === 'by-hand').length;
  const contracts = fits.reduce((sum, fit) => sum + fit.contracts, 0);
  return {
    lead: `${figures.counted(reasons.length, 'quote')} of ${figures.count(contracts)} set aside,`,
    rest: `${byHand === 0 ? 'none' : figures.count(byHand)} by hand.${expiries}`,
  };
}

/** Which expiry misses its quotes most, and how much of the chain is used. */
export function expiriesSentence(
  fits: readonly (Pick<ExpiryFit, 'expiry' | 'settlement' | 'contracts' | 'usable' | 'expiryAside'> & {
    errorInHalfSpreads?: number;
  })[],
): Sentence {
  const used = fits.filter(({ expiryAside }) => expiryAside === null);
  const contracts = fits.reduce((sum, fit) => sum + fit.contracts, 0);
  const usable = used.reduce((sum, fit) => sum + fit.usable, 0);
  const lead = `${figures.count(usable)} of ${figures.count(contracts)} used.`;
  const [worst] = used
    .filter(({ errorInHalfSpreads }) => Number.isFinite(errorInHalfSpreads ?? NaN))
    .toSorted((a, b) => b.errorInHalfSpreads! - a.errorInHalfSpreads!);
  if (!worst) return { lead, rest: '' };
  return {
    lead,
    rest: `${shortExpiry(worst)} fits worst, ±${figures.fixed(worst.errorInHalfSpreads, 1)} half spreads.`,
  };
}

/** Where a borrowed curve comes from, and by how much it was changed. */
export function borrowedWords(borrowed: BorrowedFrom): string {
  const { source, takenFrom, volShift, slope, curvature } = borrowed;
  const points = (value: number) => figures.volChange(value, 2);
  const changes = [
    volShift ? `${points(volShift)} points` : '',
    slope ? `slope ${points(slope)}` : '',
    curvature ? `curvature ${points(curvature)}` : '',
  ].filter(Boolean);
  const sound = borrowed.isArbitrageFree ? '' : '; it has butterfly arbitrage';
  return `curve borrowed from ${source} ${shortName(takenFrom)}${changes.length > 0 ? `, ${changes.join(', ')}` : ''}${sound}`;
}

/** The curve of an expiry and how well it meets the quotes. */
export function fitLine({ curve, rmse, errorInHalfSpreads, borrowed }: ExpiryFit): string {
  if (!curve) return 'no curve';
  if (borrowed) return `borrowed from ${borrowed.source} ${shortName(borrowed.takenFrom)}`;
  const misses = `${figures.plusMinus(100 * rmse, 2)} points, ${figures.fixed(errorInHalfSpreads, 2)} half spreads`;
  return `${CURVE_NAMES[curve.kind]} ${misses}`;
}

/** A reading of the term structure in words. */
export function readingWords(reading: string): string {
  const [, side, delta] = /^(put|call)(\d+)$/.exec(reading) ?? [];
  return side ? `${delta}-delta ${side}` : 'ATM';
}

/** The state of the term structure, and what stands ahead. */
export function termSentence(
  slope: number,
  iv30: number,
  iv90: number,
  next: { title: string; days: number } | null,
): Sentence {
  const ahead = next ? ` ${next.title} in ${figures.counted(Math.round(next.days), 'day')}.` : '';
  if (!Number.isFinite(slope)) return { lead: 'No term structure.', rest: `Too few expiries have a curve.${ahead}` };
  const state = termState(slope);
  const rest = `90-day vol ${figures.vol(iv90)} stands ${figures.vol(Math.abs(slope))} points ${slope < 0 ? 'under' : 'over'} the 30-day ${figures.vol(iv30)}.`;
  return { lead: `${capital(state)}.`, rest: rest + ahead };
}

/** How the quotes of an expiry lie against theory. */
export function chainSentence(
  expiry: ExpiryId,
  edges: readonly number[],
  halfSpreads: readonly number[],
  basisName: string,
): Sentence {
  const judged = edges.flatMap((edge, i) =>
    Number.isFinite(edge + halfSpreads[i]!) ? [{ edge, half: halfSpreads[i]! }] : [],
  );
  const name = shortExpiry(expiry);
  if (judged.length === 0)
    return { lead: `${name}:`, rest: `no quote can be compared with theory on the ${basisName} basis.` };
  const rich = judged.filter(({ edge, half }) => edge > half).length;
  const cheap = judged.filter(({ edge, half }) => edge < -half).length;
  if (rich + cheap === 0) {
    return {
      lead: `${name}:`,
      rest: `theory on the ${basisName} basis lies inside the spread of ${judged.length === 1 ? 'the one quote' : `all ${figures.count(judged.length)} quotes`}.`,
    };
  }
  return {
    lead: `${name}: ${inWords(rich)} rich and ${inWords(cheap)} cheap of ${figures.counted(judged.length, 'quote')}.`,
    rest: `Theory on the ${basisName} basis lies outside their spread; inside it for the other ${figures.count(judged.length - rich - cheap)}.`,
  };
}

/**
 * Where a vol stands in its past, and against what the price did.
 *
 * @param standing of the vol; null where it has none
 * @param label how the vol is called: 30-day vol
 * @param against the historical vol that was known, its name, and the gaps of the sessions; null without one
 */
export function standingSentence(
  standing: {
    now: number;
    percentile: number;
    high: number;
    highDate: string;
    low: number;
    lowDate: string;
    sessions: number;
  } | null,
  label: string,
  against: { vol: number; name: string; gaps: readonly number[] } | null,
): Sentence {
  if (!standing) return { lead: 'Nothing to compare.', rest: `No ${label} is held at this moment.` };
  const { now, percentile, high, highDate, low, lowDate, sessions } = standing;
  // At least one in a hundred: the sessions are whole.
  const share = (part: number) => `${figures.fixed(Math.max(1, Math.round(100 * part)), 0)} %`;
  const where = !Number.isFinite(percentile)
    ? 'with nothing to rank it by'
    : percentile < 0.5
      ? `in the lowest ${share(percentile)} of ${figures.counted(sessions, 'session')}`
      : `in the highest ${share(1 - percentile)} of ${figures.counted(sessions, 'session')}`;
  const extreme =
    percentile < 0.5
      ? `its high was ${figures.vol(high)} % on ${shortDay(highDate)} ${highDate.slice(0, 4)}.`
      : `its low was ${figures.vol(low)} % on ${shortDay(lowDate)} ${lowDate.slice(0, 4)}.`;
  const lead = `${capital(label)} is ${figures.vol(now)} %, ${where};`;
  if (!against || !Number.isFinite(now - against.vol)) return { lead, rest: extreme };
  const gap = now - against.vol;
  const held = against.gaps.filter(Number.isFinite);
  const over = held.filter((value) => value > 0).length;
  return {
    lead,
    rest: `${extreme} It stands ${figures.vol(Math.abs(gap))} points ${gap < 0 ? 'under' : 'over'} ${against.name} (${figures.vol(against.vol)}) and was over it on ${figures.count(over)} of ${figures.counted(held.length, 'session')}.`,
  };
}

/** Which underlyings stand out. */
export function universeSentence(
  rows: readonly {
    symbol: string;
    ivToHv: number | null;
    iv30: number | null;
    hv20: number | null;
    termState: string | null;
  }[],
): Sentence {
  const compared = rows.filter((row) => row.ivToHv !== null);
  const richest = compared.toSorted((a, b) => b.ivToHv! - a.ivToHv!)[0];
  if (!richest)
    return { lead: 'Nothing to compare yet.', rest: 'Import chains and bars to see implied against realized vol.' };
  const rich = compared.filter((row) => row.ivToHv! > 1.15).length;
  const backward = rows.filter((row) => row.termState === 'backwardation').map((row) => row.symbol);
  const lead = `${capital(inWords(rich))} of ${inWords(compared.length)} trade${rich === 1 ? 's' : ''} more than 15 % over what ${rich === 1 ? 'it has' : 'they have'} done in the last 20 sessions;`;
  const most = `${richest.symbol} the most (${figures.vol(richest.iv30)} against ${figures.vol(richest.hv20)}).`;
  const named = backward.slice(0, MOST_NAMED).join(', ');
  const others = backward.length > MOST_NAMED ? ` and ${inWords(backward.length - MOST_NAMED)} more` : '';
  const front = backward.length > 0 ? ` Front-month vol is bid in ${named}${others}.` : '';
  return { lead, rest: most + front };
}

/** Symbols that a sentence names before it only counts. */
const MOST_NAMED = 4;

/** Odds that differ by less than this are the same on screen. */
const SAME_ODDS = 0.001;

/** What an assumption is called, and what it stands in the place of. */
const CAUSE_WORDS: Record<Cause, { name: string; instead: string }> = {
  drift: { name: 'the drift to the forward', instead: 'from the price itself' },
  skew: { name: 'the skew', instead: 'at the money' },
  slope: { name: 'the slope of the skew', instead: 'by N(d₂) at the strike’s vol' },
  own: { name: 'the contract’s own vol', instead: 'by the curve' },
  index: { name: 'the variance index', instead: 'by the level of the expiry' },
  realized: { name: 'realized instead of implied', instead: 'by the level of the expiry' },
};

/** Assumptions that are named beside the largest. */
const MOST_CAUSES = 2;

/**
 * Which assumption makes the largest difference between the odds of a contract, and by how much; the next ones beside it.
 *
 * @param views of the bases, between which the odds lie
 * @param differences the largest first
 */
export function oddsSentence(
  views: readonly { basis: string; view: Pick<ContractView, 'itm'> }[],
  differences: readonly Difference[],
): Sentence {
  const known = views.filter(({ view }) => Number.isFinite(view.itm)).toSorted((a, b) => a.view.itm - b.view.itm);
  const [low, high] = [known[0], known.at(-1)];
  if (!low || !high || known.length < 2) {
    return { lead: 'One basis only.', rest: 'There is no second volatility to compare the odds with.' };
  }
  const odds = (itm: number) => figures.percent(itm);
  if (high.view.itm - low.view.itm < SAME_ODDS)
    return { lead: 'The bases agree:', rest: `all of them say ${odds(high.view.itm)}.` };
  const lead = `From ${odds(low.view.itm)} (${low.basis}) to ${odds(high.view.itm)} (${high.basis}):`;
  const told = differences.filter(({ by }) => Math.abs(by) >= SAME_ODDS);
  const [most, ...others] = told;
  if (!most) return { lead, rest: 'what is typed makes the difference.' };
  const points = ({ by }: Difference) => `${figures.signed(100 * by, 1)} points`;
  const { name, instead } = CAUSE_WORDS[most.cause];
  const beside = others
    .slice(0, MOST_CAUSES)
    .map((one) => `${CAUSE_WORDS[one.cause].name} ${points(one)}`)
    .join(', ');
  return {
    lead,
    rest: `${name} makes the largest difference, ${points(most)} (${odds(most.with)}, where ${instead} it would be ${odds(most.without)})${beside ? `; beside that ${beside}` : ''}.`,
  };
}

/** A zone in words: under 4 000, 4 000 … 4 400, over 4 400. */
export function zoneWords({ from, to }: Pick<Zone, 'from' | 'to'>, decimals: number): string {
  const text = (level: number) => figures.fixed(level, decimals);
  if (from === null && to === null) return 'anywhere';
  if (from === null) return `under ${text(to!)}`;
  return to === null ? `over ${text(from)}` : `${text(from)} … ${text(to)}`;
}

/** Rank and percentile with the sessions they count. */
export function rankWords(rank: Rank | null): string {
  if (!rank || !Number.isFinite(rank.rank)) return 'no rank yet';
  return `rank ${figures.fixed(100 * rank.rank, 0)} · pct ${figures.fixed(100 * rank.percentile, 0)}`;
}

const REASON_WORDS: Record<Reason, string> = {
  usable: 'in use',
  'below-intrinsic': 'no vol: at or under its lower bound',
  'above-maximum': 'no vol: at or over its upper bound',
  'zero-bid': 'no vol: nobody bids',
  crossed: 'no vol: bid over ask',
  stale: 'set aside: it has stood still since the session before',
  wide: 'no vol: the spread is wider than the price',
  expired: 'no vol: expired',
  'no-forward': 'no vol: its expiry has no forward',
  'off-curve': 'set aside: off the curve of its expiry',
  'off-parity': 'set aside: put and call of its strike do not agree',
  'by-hand': 'set aside by hand',
};

/** Why a quote is not used, in words. */
export function reasonWords(reason: Reason): string {
  return REASON_WORDS[reason];
}

/** Whether a quote of this reason has a vol and is only set aside, so that it can be put back. */
export function isSetAside(reason: Reason): boolean {
  return REASON_WORDS[reason].startsWith('set aside');
}

/** Where the shape of a curve comes from, where that is not its own quotes. */
export function shapeWords({ shape }: { shape?: CurveShape }): string | undefined {
  if (shape === 'past') return 'too few quotes for a curve of its own: the shape is that of the session before';
  return shape === 'neighbour'
    ? 'too few quotes for a curve of its own: the shape is that of an expiry beside it'
    : undefined;
}

/** Why a whole expiry is not used, in words. */
export function expiryAsideWords(aside: ExpiryAside): string {
  return {
    'by-hand': 'set aside by hand',
    'broken-forward': 'set aside: its forward does not agree with carry and the other expiries',
    'off-term': 'set aside: its few quotes say a vol that the expiries beside it and the session before do not know',
  }[aside];
}

/**
 * Where the simulated feed stands.
 *
 * @param moment the newest that has come, where the page listens to it
 */
export function feedWords(
  feed: { status: 'running' | 'stopped'; speed: number; moment: string; isBegun: boolean; isKept: boolean },
  moment: string | undefined,
  zone: string,
): string {
  if (!feed.isBegun) return 'simulated, goes on from the last moment of the demo';
  const at = exactMoment(Date.parse(moment ?? feed.moment), zone);
  if (feed.status === 'stopped') return `feed stands at ${at}`;
  if (!feed.isKept) return `feed stands at ${at}: no worker looks after it`;
  return `feed at ${feed.speed}× · ${at}`;
}

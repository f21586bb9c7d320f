import { constantMaturityVol } from '../surface';

/** An expiry whose forward is judged. */
export interface JudgedForward {
  readonly years: number;
  /** By parity; NaN where it has none. */
  readonly forward: number;
  /** One standard error of it, in price units. */
  readonly uncertainty: number;
  /** Spot less dividends, at the rate. */
  readonly carry: number;
  /** Forwards at which it can be sold, or bought, at the quotes as they stand, by strike; of strikes that say something of it. */
  readonly sold: readonly number[];
  readonly bought: readonly number[];
  /** What it costs to hold the underlying until then, at the most, and what is had for owing it, at the least; NaN where nobody knows. */
  readonly mostCarry: number;
  readonly leastCarry: number;
  /** Whether carry is the forward itself: the price of a future. */
  readonly isKnown: boolean;
  /** Whether it was broken in the session before; null where it was not held then. */
  readonly wasBroken: boolean | null;
}

/** What an expiry says of the yield over its carry, ln(F/carry) ÷ T, and one standard error of it. */
export interface KnownYield {
  readonly years: number;
  readonly value: number;
  readonly error: number;
}

/** What lending and unknown dividends are worth a year before anything is seen, and how much expiries differ in it. (Our own choice.) */
const USUAL_YIELD = 0.03;
const YIELDS_DIFFER = 0.003;
/** A forward is off when it is further from what the others say than this many standard errors, this share of a deviation, and this share of itself. */
const OFF_FORWARD = 4;
const OFF_DEVIATIONS = 0.15;
const LEAST_OFF = 0.004;
/** An expiry is broken where it can be traded at a profit at more than this share of its strikes, and stays so until at less than the other. */
const BREAKS = 0.5;
const HEALS = 0.1;
/** A new fault needs two strikes as evidence; an expiry that was sound needs four, or three of three, so that two bad quotes do not condemn it. */
const FEWEST_STRIKES = 2;
const FEWEST_WHOLE = 4;
const NO_YIELD = { value: 0, error: 0 };
/** Of fewer nobody can tell which one is off. */
const FEWEST_YIELDS = 3;
/** One that was broken has to come this much nearer to be whole again. */
const NEARER = 0.5;

/**
 * The yield that expiries say together, with how well it is known: the mean of the largest number that agree within four
 * standard errors, and what is usual where fewer than half do.
 */
export function commonYield(known: readonly KnownYield[]): { value: number; error: number } {
  let agreed: readonly KnownYield[] = [];
  for (const centre of known.toSorted((a, b) => a.error - b.error)) {
    const votes = known.filter(
      ({ value, error }) =>
        Math.abs(value - centre.value) <= OFF_FORWARD * Math.hypot(error, centre.error, YIELDS_DIFFER),
    );
    if (votes.length > agreed.length) agreed = votes;
  }
  // What one expiry alone says against all that is usual is not taken from it for the others.
  const isAlone = agreed.length === 1 && Math.abs(agreed[0]!.value) > OFF_FORWARD * USUAL_YIELD;
  if (isAlone || agreed.length < 0.5 * known.length) agreed = [];
  let sum = 0;
  let weights = 1 / USUAL_YIELD ** 2;
  for (const { value, error } of agreed) {
    const weight = 1 / (error * error + YIELDS_DIFFER * YIELDS_DIFFER);
    sum += weight * value;
    weights += weight;
  }
  return { value: sum / weights, error: Math.sqrt(1 / weights) };
}

/** What of an expiry tells a yield. */
type Yielding = Pick<JudgedForward, 'years' | 'forward' | 'carry' | 'uncertainty'>;

function yieldOf({ forward, carry, uncertainty, years }: Yielding): KnownYield | null {
  if (!(forward > 0 && carry > 0 && years > 0)) return null;
  return { years, value: Math.log(forward / carry) / years, error: uncertainty / (forward * years) };
}

/** Yields of the expiries that say one. */
export function knownYields(expiries: readonly Yielding[]): KnownYield[] {
  return expiries.map(yieldOf).filter((one) => one !== null);
}

/**
 * Tells expiries whose forward cannot be meant: what can be traded at a profit against carry at most of its strikes, or what
 * stands apart from the yields that the other expiries of the underlying imply, today and in the session before. One that was
 * broken then stays so until it has come clearly back, so that the finding does not flicker.
 *
 * @param vol about the vol at the forward: what is off by a small share of a deviation does no harm
 * @param past yields of the session before, of expiries that were whole
 */
export function brokenForwards(
  expiries: readonly JudgedForward[],
  vol: number,
  past: readonly KnownYield[] = [],
): boolean[] {
  const voters = [...knownYields(expiries), ...past];
  const isCommon = voters.length >= FEWEST_YIELDS;
  const common = commonYield(isCommon ? voters : []);
  return expiries.map((expiry) => {
    const { years, forward, carry, uncertainty, wasBroken, isKnown } = expiry;
    if (!(carry > 0 && years > 0)) return false;
    const isTold = isCommon || isKnown;
    const { value, error } = isKnown ? NO_YIELD : common;
    const { share, strikes } = traded(expiry, { value, error }, isTold);
    const isEnough = wasBroken !== false || strikes >= FEWEST_WHOLE - Number(share === 1);
    if (share > BREAKS && isEnough) return true;
    const least = isKnown ? LEAST_OFF : Math.max(OFF_DEVIATIONS * vol * Math.sqrt(years), LEAST_OFF);
    const noise = uncertainty / forward;
    const off = Math.abs(Math.log(forward / carry) - value * years);
    const most = Math.max(OFF_FORWARD * Math.hypot(noise, error * years), least);
    if (isTold && off > most) return true;
    // Over what holding costs there is nothing that could be meant: no lender, no dividend explains it.
    const over = Math.log(forward / expiry.mostCarry) - Math.max(value, 0) * years;
    if (over > Math.max(OFF_FORWARD * noise, least)) return true;
    const isBack = share < HEALS && (off < NEARER * most || !(forward > 0));
    return wasBroken === true && !isBack;
  });
}

/**
 * The share of strikes at which an expiry can be traded at a profit against carry, and at how many it can be traded at all; NaN
 * with too few. What is had for owing the underlying the other expiries tell, where there are enough of them.
 */
function traded(
  { sold, bought, carry, mostCarry, leastCarry, years }: JudgedForward,
  common: { value: number; error: number },
  isCommon: boolean,
) {
  const most = mostCarry * Math.exp(Math.max(common.value, 0) * years) * (1 + LEAST_OFF);
  const doubt = LEAST_OFF + OFF_FORWARD * common.error * years;
  const others = isCommon ? carry * Math.exp(common.value * years - doubt) : NaN;
  const least = leastCarry > 0 ? leastCarry * (1 - LEAST_OFF) : others;
  const told = [
    { prices: sold, isOff: (price: number) => price > most },
    { prices: bought, isOff: (price: number) => price < least },
  ].flatMap(({ prices, isOff }) =>
    prices.length < FEWEST_STRIKES
      ? []
      : [{ share: prices.filter(isOff).length / prices.length, strikes: prices.length }],
  );
  return told.sort((a, b) => b.share - a.share)[0] ?? { share: NaN, strikes: 0 };
}

/** Whether a forward is so far from carry that it needs other expiries to be believed: by more than lending and dividends usually explain. */
export function isStrange({ forward, carry, years }: Omit<Yielding, 'uncertainty'>): boolean {
  return Math.abs(Math.log(forward / carry)) > Math.max(OFF_FORWARD * USUAL_YIELD * years, LEAST_OFF);
}

/** An expiry whose vol at the forward is judged. */
export interface JudgedTerm {
  readonly years: number;
  /** NaN where it has none. */
  readonly atmVol: number;
  /** One standard error of it. */
  readonly uncertainty: number;
  /** In the session before, where it was whole then; NaN else. */
  readonly pastVol: number;
  /** Whether it may be told wrong by others; where many quotes agree they are the market, whatever they say. */
  readonly isScarce: boolean;
}

/** A vol is out of line when it is off by this share, and by so many standard errors, or by a share that no vol is used with. */
const OFF_TERM = 0.25;
const OFF_TERM_ERRORS = 6;
const OFF_TERM_ANYWAY = 0.4;

/**
 * Tells expiries of few quotes whose vol cannot be meant: out of line with the expiries beside it in time, and with what it was
 * in the session before, by more than its quotes leave open. The one that is furthest off first, as it makes others look wrong.
 *
 * @param expiries ascending in years
 */
export function offTerm(expiries: readonly JudgedTerm[]): boolean[] {
  const off = expiries.map(() => false);
  for (;;) {
    const left = expiries.filter(({ atmVol }, i) => !off[i] && atmVol > 0);
    const shares = left.map((expiry) => shareOff(expiry, left));
    const most = Math.max(...shares);
    if (!(most > 0)) return off;
    off[expiries.indexOf(left[shares.indexOf(most)]!)] = true;
  }
}

/** By what share the vol of an expiry is off, by the standard that it is least off by; 0 where that is allowed. */
function shareOff(expiry: JudgedTerm, among: readonly JudgedTerm[]): number {
  const { years, atmVol, uncertainty, pastVol, isScarce } = expiry;
  const others = among.filter((one) => one !== expiry);
  if (!isScarce || others.length === 0) return 0;
  const changeOf = (one: JudgedTerm) => Math.log(one.atmVol / one.pastVol);
  const changes = others.map(changeOf).filter(Number.isFinite);
  const beside = constantMaturityVol(
    others.map((one) => ({ years: one.years, vol: one.atmVol })),
    years,
  );
  const offs = [Math.log(atmVol / beside)];
  if (pastVol > 0) offs.push(changeOf(expiry) - (changes.length > 0 ? median(changes) : 0));
  if (others.length < FEWEST_NEIGHBOURS) {
    // The other one may be the wrong one of the two: only the session before tells.
    if (!(changes.length > 0 && pastVol > 0)) return 0;
    offs.push(changeOf(expiry));
  }
  const errors = (OFF_TERM_ERRORS * uncertainty) / atmVol;
  const share = Math.min(...offs.map(Math.abs));
  return share > Math.min(Math.max(OFF_TERM, errors), OFF_TERM_ANYWAY) ? share : 0;
}

function median(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[half]! : 0.5 * (sorted[half - 1]! + sorted[half]!);
}

const FEWEST_NEIGHBOURS = 2;

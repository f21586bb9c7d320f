import type { ExpiryId, Settlement } from '../contracts';
import { normalCdf } from '../distributions';
import { nextSession, sessionsBetween, type Calendar } from '../time';

/** What an expiry was expected to move by, as it was known at a moment. */
export interface KnownMove extends ExpiryId {
  /** Sessions left. */
  readonly sessions: number;
  /** In money; NaN where there was none. */
  readonly straddle: number;
  readonly deviation: number;
}

/** The last moment of a session that is held. */
export interface MoveMoment {
  readonly day: string;
  readonly price: number;
  /** In the order of their expiries. */
  readonly expiries: readonly KnownMove[];
}

/** The price at which a day opened (`am`) or closed (`pm`); NaN where it is not held. */
export type PriceAt = (day: string, end: Settlement) => number;

/** From where to where a move is followed: from session to session, from week to week, or from expiry to expiry. */
export const STEP_KINDS = ['day', 'week', 'expiry'] as const;
export type StepKind = (typeof STEP_KINDS)[number];
export const MOVE_MEASURES = ['straddle', 'deviation'] as const;
export type MoveMeasure = (typeof MOVE_MEASURES)[number];

/** One expected move of the past and what became of it; the expiry is the one that it was read from. */
export interface ExpectedStep extends ExpiryId {
  /** The session at whose end it was known, and the one at whose close it was over. */
  from: string;
  to: string;
  price: number;
  /** In money; `price` ∓ it are its levels. */
  move: number;
  /** What the price was when it was over; NaN while it is not. */
  close: number;
  /** (close − price) / move; so far, where it is not over. */
  times: number;
  /** Sessions that are left of it; 0 when it is over. */
  left: number;
  outcome: 'inside' | 'over' | 'under' | 'open';
}

/** Monday of the week of a day, as a name for the week. */
function weekOf(day: string): string {
  const at = new Date(`${day}T00:00:00Z`);
  at.setUTCDate(at.getUTCDate() - ((at.getUTCDay() + 6) % 7));
  return at.toISOString().slice(0, 10);
}

/** The last session of the week after that of a day. */
function endOfNextWeek(calendar: Calendar, day: string): string {
  let at = nextSession(calendar, day);
  const week = weekOf(at);
  for (let next = nextSession(calendar, at); weekOf(next) === week; next = nextSession(calendar, at)) at = next;
  return at;
}

/**
 * Expected moves of the past, one after the other without overlap, each as it was known at the end of the session from which
 * it is followed.
 *
 * A `day` is from a session to the next, a `week` from the last session of a week to that of the next one, an `expiry` from the
 * session on which the expiry before was over to the expiry that was then next. The move is read from the first expiry that
 * is not before the end; where that is later, it is scaled by the root of the sessions, as variance grows evenly.
 *
 * @param moments ascending, one for each session
 * @param priceAt price at the open (`am`) or the close (`pm`) of a day; NaN where none is held
 * @param now the last price, for what is not over
 */
export function expectedSteps(
  calendar: Calendar,
  moments: readonly MoveMoment[],
  kind: StepKind,
  measure: MoveMeasure,
  priceAt: PriceAt,
  now: { day: string; price: number },
): ExpectedStep[] {
  const steps: ExpectedStep[] = [];
  let until = '';
  for (const moment of moments) {
    const { day, price, expiries } = moment;
    if (day < until) continue;
    const isWeekEnd = weekOf(nextSession(calendar, day)) !== weekOf(day);
    if (kind === 'week' && !isWeekEnd) continue;
    const to = endOf(calendar, moment, kind);
    const read = to === null ? undefined : expiries.find((one) => one.expiry >= to && one.sessions > 0);
    if (to === null || !read || !(price > 0)) continue;
    const left = sessionsBetween(calendar, day, to);
    const move = read[measure] * Math.sqrt(left / read.sessions);
    if (!(move > 0)) continue;
    const settled = to <= now.day ? priceAt(to, kind === 'expiry' ? read.settlement : 'pm') : NaN;
    const isOver = Number.isFinite(settled);
    const close = isOver ? settled : NaN;
    const times = ((isOver ? close : now.price) - price) / move;
    const outcome = !isOver ? 'open' : times > 1 ? 'over' : times < -1 ? 'under' : 'inside';
    steps.push({
      ...{ from: day, to, expiry: read.expiry, settlement: read.settlement, price, move, close, times, outcome },
      left: isOver ? 0 : sessionsBetween(calendar, now.day, to),
    });
    until = to;
  }
  return steps;
}

function endOf(calendar: Calendar, { day, expiries }: MoveMoment, kind: StepKind): string | null {
  if (kind === 'day') return nextSession(calendar, day);
  if (kind === 'week') return endOfNextWeek(calendar, day);
  return expiries.find(({ expiry, sessions }) => expiry > day && sessions > 0)?.expiry ?? null;
}

/** How often moves stayed inside, and how often they should have. */
export interface InsideCount {
  complete: number;
  inside: number;
  over: number;
  under: number;
  /** What a fair move gives: 68.3 % of one deviation; of a straddle, which is 0.798 of it, 57.5 %. */
  fair: number;
}

/** P(|Z| < 1) and P(|Z| < √(2/π)) of a standard normal Z. */
const FAIR: Record<MoveMeasure, number> = {
  deviation: 2 * normalCdf(1) - 1,
  straddle: 2 * normalCdf(Math.sqrt(2 / Math.PI)) - 1,
};

export function countInside(steps: readonly ExpectedStep[], measure: MoveMeasure): InsideCount {
  const count = (outcome: ExpectedStep['outcome']) => steps.filter((step) => step.outcome === outcome).length;
  const [inside, over, under] = [count('inside'), count('over'), count('under')];
  return { complete: inside + over + under, inside, over, under, fair: FAIR[measure] };
}

/** Every expiry of every session against the close at which it was over: how often it stayed inside, by days. */
export interface ExpiryRecord extends ExpiryId {
  day: string;
  sessions: number;
  /** Size of the outcome over the move, signed. */
  times: number;
}

/** What became of all expected moves that are over, overlapping ones too. */
export function expiryRecords(
  moments: readonly MoveMoment[],
  measure: MoveMeasure,
  priceAt: PriceAt,
  now: string,
): ExpiryRecord[] {
  return moments.flatMap(({ day, price, expiries }) =>
    expiries.flatMap((one): ExpiryRecord[] => {
      const times = one.expiry <= now ? (priceAt(one.expiry, one.settlement) - price) / one[measure] : NaN;
      return Number.isFinite(times)
        ? [{ day, expiry: one.expiry, settlement: one.settlement, sessions: one.sessions, times }]
        : [];
    }),
  );
}

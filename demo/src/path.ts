import { inOldTerms, sharesOf } from './adjust';
import { instantOf, isSession, MILLISECONDS_PER_DAY, previousSession, sessionClose } from '@umwelt/core';
import { Random } from './random';
import { CALENDAR, CLOCK, QUARTERS, SELL_OFF, type Follower, type UnderlyingSpec } from './world';

/** One session of an underlying. */
export interface Session {
  day: string;
  open: number;
  high: number;
  low: number;
  close: number;
  volume: number;
  /** Price at the beginning of each quarter of an hour. */
  quarters: number[];
  /** Vol at each quarter, without announcements: it moves with the price. */
  vols: number[];
  /** The vol of the last quarter, and the level that it returns to. */
  vol: number;
  level: number;
  /** Tilt of the skew. */
  rho: number;
}

/** Coarser steps would make the range of a session look too small. */
const STEPS_PER_QUARTER = 10;
const STEPS = QUARTERS * STEPS_PER_QUARTER;
/** Share of a day's variance that comes between two sessions. */
export const OVERNIGHT_SHARE = 0.22;
export const SESSIONS_PER_YEAR = 252;
export const QUARTER_MS = MILLISECONDS_PER_DAY / 96;

/** The days of the world, the last one at the end. */
export function sessionDays(): string[] {
  const days = [CLOCK.lastDay];
  if (!isSession(CALENDAR, CLOCK.lastDay)) throw new RangeError('the last day of the world is no session');
  while (days.length <= CLOCK.sessions) days.unshift(previousSession(CALENDAR, days[0]!));
  return days;
}

/** The quarter in which the daily snapshot is taken: the last, of a half day as well. */
export const LAST_QUARTER = QUARTERS - 1;

/**
 * The instant at which a quarter of a session begins. A half day is treated as if its quarters were shorter; only its last
 * moment is taken.
 */
export function quarterInstant(day: string, quarter: number): number {
  if (quarter === LAST_QUARTER) return sessionClose(CALENDAR, day) - QUARTER_MS;
  return instantOf(CALENDAR, day, CALENDAR.open) + quarter * QUARTER_MS;
}

/** One normal move per session and step that underlyings share. */
export type Factor = Map<string, number[]>;

export function factorOf(name: string, days: readonly string[]): Factor {
  const random = new Random(name);
  return new Map(days.map((day) => [day, Array.from({ length: STEPS + 1 }, () => random.normal())]));
}

/** The factors of the world. */
export interface Factors {
  island: Factor;
  water: Factor;
}

export function factorsOf(days: readonly string[]): Factors {
  return { island: factorOf('meridian island factor 1301', days), water: factorOf('fresh water factor', days) };
}

/** The vol of each session, and by how much a session's moves surprised. */
interface VolState {
  /** The vol that drives the prices of the session. */
  drive: number;
  vols: number[];
  level: number;
  rho: number;
  surprise: number;
  shock: number;
  /** Normal moves: overnight, then the steps of the session. */
  moves: number[];
}

const MIDWINTER = 15;
const DAYS_OF_YEAR = 365.25;

function dayOfYear(day: string): number {
  return (Date.parse(day) - Date.parse(`${day.slice(0, 4)}-01-01`)) / MILLISECONDS_PER_DAY;
}

/** By how much the level of vol is over or under its mean in the season of a day, as a factor. */
export function seasonOf({ vol }: UnderlyingSpec, day: string): number {
  return 1 + vol.season * Math.cos((2 * Math.PI * (dayOfYear(day) - MIDWINTER)) / DAYS_OF_YEAR);
}

/** How far the tilt of a skew that swings has turned after a share of the year of the world. */
export function swingOf({ skew: { swing } }: UnderlyingSpec, share: number): number {
  return swing ? swing.size * Math.sin(2 * Math.PI * swing.turns * (share - 1) + Math.PI / 2) : 0;
}

/** A tilt within what a skew can have. */
export function boundedTilt(rho: number): number {
  return Math.max(-0.92, Math.min(0.92, rho));
}

/** A move of the price as the factors and the underlying's own luck make it, all of deviation one. */
export function mixed({ factors: { island, water = 0 } }: UnderlyingSpec, moves: Record<Part, number>): number {
  return island * moves.island + water * moves.water + Math.sqrt(1 - island ** 2 - water ** 2) * moves.own;
}

type Part = 'island' | 'water' | 'own';

/**
 * Mean of the log of vol over its level, so that variance on average is that of the level: what an expiry far away is
 * priced by.
 */
export function meanHeat({ wander, leverage, reversion }: UnderlyingSpec['vol']): number {
  return -(wander ** 2 + SESSIONS_PER_YEAR * leverage ** 2) / (2 * reversion);
}

/**
 * The path of vol: its log returns to its mean and rises when the price falls, in the same quarter (the leverage effect).
 * Over the last two months it is led to where the story ends, before any price is made, so that prices move by the vol that
 * is quoted.
 */
function playVol(spec: UnderlyingSpec, days: readonly string[], factors: Factors, random: Random): VolState[] {
  const { level, levelAtStart, reversion, wander, leverage, lastShare } = spec.vol;
  const dt = 1 / SESSIONS_PER_YEAR;
  const pull = Math.exp(-reversion * dt);
  const mean = meanHeat(spec.vol);
  let heat = 0;
  let shock = 0;
  let tilt = 0;
  let factor = 1;
  let baseRho = spec.skew.rho;
  const states = days.map((day, at) => {
    const share = at / (days.length - 1);
    for (const turn of spec.turns) {
      if (turn.day !== day) continue;
      factor *= turn.volFactor ?? 1;
      baseRho = turn.rho ?? baseRho;
    }
    const calm = shock;
    if (day === SELL_OFF.day) shock = Math.log(SELL_OFF.volFactor) * Math.max(0, spec.factors.island);
    const islandMoves = factors.island.get(day)!;
    const waterMoves = factors.water.get(day)!;
    const moves = islandMoves.map((island, i) => mixed(spec, { island, water: waterMoves[i]!, own: random.normal() }));
    const scale = [Math.sqrt(OVERNIGHT_SHARE), Math.sqrt((1 - OVERNIGHT_SHARE) / STEPS)] as const;
    /** The move of the session up to each step, in deviations. */
    const moved = cumulative(moves.map((move, i) => move * scale[i === 0 ? 0 : 1]));
    const surprise = moved.at(-1)!;
    const now = level * factor * seasonOf(spec, day) * (levelAtStart + (1 - levelAtStart) * share);
    const rho = boundedTilt(baseRho + tilt + swingOf(spec, share));
    const luck = wander * Math.sqrt(dt) * random.normal();
    const vols = Array.from({ length: QUARTERS }, (_, quarter) => {
      const part = (quarter + 1) / QUARTERS;
      const hot = heat * pull ** part + luck * part - leverage * moved[quarter * STEPS_PER_QUARTER]!;
      return now * Math.exp(mean + hot + calm + (shock - calm) * part);
    });
    const state = { drive: now * Math.exp(mean + heat + shock), vols, level: now, rho, surprise, shock, moves };
    heat = heat * pull + luck - leverage * surprise;
    shock *= 0.93;
    tilt = 0.9 * tilt + spec.skew.wander * random.normal();
    return state;
  });
  const last = states.at(-1)!;
  const miss = Math.log((lastShare * last.level) / last.vols[LAST_QUARTER]!);
  states.forEach((state, i) => {
    const led = Math.exp(miss * Math.max(0, 1 - (states.length - 1 - i) / 40));
    state.drive *= led;
    state.vols = state.vols.map((vol) => vol * led);
  });
  return states;
}

/** Sums of a list up to and with each of its values. */
function cumulative(values: readonly number[]): number[] {
  let sum = 0;
  return values.map((value) => (sum += value));
}

/**
 * Plays the market model of an underlying: the price moves by its vol overnight and in small steps through the
 * session, and jumps at its announcements and at the turns of its story.
 */
export function playPath(spec: UnderlyingSpec, days: readonly string[], factors: Factors): Session[] {
  const random = new Random(`${spec.symbol} path`);
  const dt = 1 / SESSIONS_PER_YEAR;
  let price = 1;
  const sessions = playVol(spec, days, factors, random).map((state, at): Session => {
    const { drive, vols, level, rho, surprise, shock, moves } = state;
    const day = days[at]!;
    const slide = day === SELL_OFF.day ? SELL_OFF.move * Math.max(0, spec.factors.island) : 0;
    const turn = spec.turns.find((one) => one.day === day)?.move ?? 0;
    price *= Math.exp(
      drive * Math.sqrt(OVERNIGHT_SHARE * dt) * moves[0]! +
        jumpAt(spec, day, null, random) +
        turn +
        0.5 * slide +
        spec.drift * dt,
    );
    const session = { day, open: price, high: price, low: price, close: price, quarters: [price] };
    const perStep = drive * Math.sqrt(((1 - OVERNIGHT_SHARE) * dt) / STEPS);
    for (let i = 1; i <= STEPS; i++) {
      price *= Math.exp(perStep * moves[i]! + (0.5 * slide) / STEPS);
      const quarter = i / STEPS_PER_QUARTER;
      if (Number.isInteger(quarter)) {
        price *= Math.exp(jumpAt(spec, day, quarter, random));
        if (quarter < QUARTERS) session.quarters.push(price);
      }
      session.high = Math.max(session.high, price);
      session.low = Math.min(session.low, price);
    }
    const volume = Math.round(2e6 * Math.exp(0.25 * random.normal() + 0.3 * Math.abs(surprise) + shock));
    return { ...session, close: price, volume, vols, vol: vols[LAST_QUARTER]!, level, rho };
  });
  return asPublished(spec, onTick(spec, sessions, spec.lastPrice / sessions.at(-1)!.quarters[LAST_QUARTER]!));
}

/** The jumps at the beginning of a quarter, or before the session (null), as a log move. */
export function jumpAt(spec: UnderlyingSpec, day: string, quarter: number | null, random: Random): number {
  let jump = 0;
  for (const { day: on, time, jump: deviation, turnedOut } of spec.events) {
    if (on !== day) continue;
    const isBefore = time < CALENDAR.open;
    const at = isBefore ? null : Math.ceil((instantOf(CALENDAR, day, time) - quarterInstant(day, 0)) / QUARTER_MS);
    if (at === quarter) jump += deviation * (turnedOut ?? random.normal());
  }
  return jump;
}

/** A session with each of its prices changed alike. */
function withPrices(session: Session, change: (price: number) => number): Session {
  return {
    ...session,
    open: change(session.open),
    high: change(session.high),
    low: change(session.low),
    close: change(session.close),
    quarters: session.quarters.map(change),
  };
}

/** A path times a factor, on the tick. */
function onTick(spec: UnderlyingSpec, sessions: readonly Session[], factor: number): Session[] {
  return sessions.map((session) => withPrices(session, (price) => roundTo(price * factor, spec.priceTick)));
}

/** Sessions as they were published: those of before the adjustment in their own terms. */
function asPublished({ adjustment }: UnderlyingSpec, sessions: Session[]): Session[] {
  if (!adjustment) return sessions;
  return sessions.map((session) => {
    if (session.day >= adjustment.exDate) return session;
    const volume = Math.round(session.volume / sharesOf(adjustment));
    return { ...withPrices(session, (price) => inOldTerms(adjustment, price)), volume };
  });
}

/** A value on the nearest tick. */
export function roundTo(value: number, tick: number): number {
  return Math.round(value / tick) * tick;
}

/** The path of an underlying that follows another. */
export function followPath(follower: Follower, sessions: readonly Session[]): Session[] {
  const { spec, volFactor, sign } = follower;
  const random = new Random(`${spec.symbol} follows`);
  const seen = follower.alike ? seenApart(follower, sessions) : seenAlike(follower, sessions);
  return sessions.map((session, i) => {
    const at = (value: number, share: number) => roundTo(seen(i, value, share), spec.priceTick);
    const factor = volFactor(session.day);
    const quarters = session.quarters.map((price, quarter) => at(price, quarter / QUARTERS));
    const [open, close] = [at(session.open, 0), at(session.close, 1)];
    const ends = [at(session.high, 0.5), at(session.low, 0.5), open, close, ...quarters];
    const vols = session.vols.map((vol) => vol * factor);
    return {
      ...session,
      open,
      high: Math.max(...ends),
      low: Math.min(...ends),
      close,
      quarters,
      volume: Math.round(session.volume * (0.1 + 0.05 * random.uniform())),
      vols,
      vol: vols[LAST_QUARTER]!,
      level: session.level * factor,
      rho: sign * session.rho,
    };
  });
}

/** A price of the path that is followed, at a share of a session, as the follower's. */
type Seen = (session: number, price: number, share: number) => number;

function seenAlike({ price }: Follower, sessions: readonly Session[]): Seen {
  return (session, value) => price(value, sessions[session]!.day);
}

/**
 * Deliveries of a product: the nearer the more it moves (P. A. Samuelson, "Proof that properly anticipated prices fluctuate
 * randomly", 1965), and the less alike the further they are apart. What the spot does not say of a delivery is shared by all
 * of them, so that neighbours still move together. The path ends where the curve of the last day has it.
 */
function seenApart(follower: Follower, sessions: readonly Session[]): Seen {
  const { of, price, volFactor, alike } = follower;
  const dt = 1 / SESSIONS_PER_YEAR;
  let base = 0;
  const steps = sessions.map((session, i) => {
    const { day } = session;
    const luck = new Random(`${of} ${day} carry`);
    const [overnight, inside] = [luck.normal(), luck.normal()];
    const share = alike!(day);
    const own = Math.sqrt(1 - share ** 2) * session.vol * Math.sqrt(dt);
    const before = Math.log(i > 0 ? sessions[i - 1]!.close : session.open);
    const from = base;
    const at = (value: number, ofSession: number) => {
      // All of it has come when the last quarter begins, from which the feed goes on.
      const part = Math.min(1, (ofSession * QUARTERS) / LAST_QUARTER);
      const drawn = Math.sqrt(OVERNIGHT_SHARE) * overnight + Math.sqrt(1 - OVERNIGHT_SHARE) * inside * part;
      return from + volFactor(day) * (share * (Math.log(value) - before) + own * drawn);
    };
    base = at(session.close, 1);
    return at;
  });
  const last = sessions.at(-1)!;
  const end = last.quarters[LAST_QUARTER]!;
  const scale = price(end, last.day) / Math.exp(steps.at(-1)!(end, LAST_QUARTER / QUARTERS));
  return (session, value, share) => scale * Math.exp(steps[session]!(value, share));
}

import { calendarById, instantOf, isSession, previousSession } from '@umwelt/core';
import { Random } from './random';
import { CLOCK, SELL_OFF, type UnderlyingSpec } from './world';

export const CALENDAR = calendarById('MRX');

/** One session of an underlying. */
export interface Session {
  day: string;
  open: number;
  high: number;
  low: number;
  close: number;
  volume: number;
  /** Price at the moment of the snapshot. */
  snapshotPrice: number;
  /** Vol that drives the price after the snapshot, without announcements. */
  vol: number;
  /** Tilt of the skew. */
  rho: number;
}

/** Steps of a quarter of an hour; coarser ones would make the range of a session look too small. */
const STEPS_PER_QUARTER = 10;
const STEPS = 26 * STEPS_PER_QUARTER;
/** The snapshot at 15:45 comes after 25 of the 26 quarters of an hour from 9:30. */
const SNAPSHOT_STEP = 25 * STEPS_PER_QUARTER;
/** Announcements during the session come at 14:00. */
const ANNOUNCEMENT_STEP = 18 * STEPS_PER_QUARTER;
const OVERNIGHT_SHARE = 0.22;
const SESSIONS_PER_YEAR = 252;

/** The days of the world, the last one at the end. */
export function sessionDays(): string[] {
  const days = [CLOCK.lastDay];
  if (!isSession(CALENDAR, CLOCK.lastDay)) throw new RangeError('the last day of the world is no session');
  while (days.length <= CLOCK.barSessions) days.unshift(previousSession(CALENDAR, days[0]!));
  return days;
}

/** One normal move per session and step that all underlyings share. */
export function islandMoves(days: readonly string[]): Map<string, number[]> {
  const random = new Random('meridian island factor');
  return new Map(days.map((day) => [day, Array.from({ length: STEPS + 1 }, () => random.normal())]));
}

/** The vol of each session, and by how much a session's moves surprised. */
interface VolState {
  vol: number;
  rho: number;
  surprise: number;
  shock: number;
  /** Normal moves: overnight, then the steps of the session. */
  moves: number[];
}

/**
 * The path of vol: its log returns to its level and rises when the price falls. Over the last two months it is
 * led to where the story ends, before any price is made, so that prices move by the vol that is quoted.
 */
function playVol(
  spec: UnderlyingSpec,
  days: readonly string[],
  island: Map<string, number[]>,
  random: Random,
): VolState[] {
  const { level, reversion, wander, leverage, lastShare } = spec.vol;
  const dt = 1 / SESSIONS_PER_YEAR;
  const pull = Math.exp(-reversion * dt);
  const own = Math.sqrt(1 - spec.islandShare ** 2);
  let logVol = 0;
  let shock = 0;
  let tilt = 0;
  const states = days.map((day) => {
    if (day === SELL_OFF.day) shock = Math.log(SELL_OFF.volFactor) * spec.islandShare;
    const moves = island.get(day)!.map((move) => spec.islandShare * move + own * random.normal());
    const scale = [Math.sqrt(OVERNIGHT_SHARE), Math.sqrt((1 - OVERNIGHT_SHARE) / STEPS)] as const;
    const surprise = moves.reduce((sum, move, i) => sum + move * scale[i === 0 ? 0 : 1], 0);
    const state = { vol: level * Math.exp(logVol + shock), rho: spec.skew.rho + tilt, surprise, shock, moves };
    logVol = logVol * pull + wander * Math.sqrt(dt) * random.normal() - leverage * surprise;
    shock *= 0.93;
    tilt = 0.9 * tilt + spec.skew.wander * random.normal();
    return state;
  });
  const miss = Math.log((lastShare * level) / states.at(-1)!.vol);
  states.forEach((state, i) => (state.vol *= Math.exp(miss * Math.max(0, 1 - (states.length - 1 - i) / 40))));
  return states;
}

/**
 * Plays the market model of an underlying: the price moves by its vol overnight and in small steps through the
 * session, and jumps at its announcements.
 */
export function playPath(spec: UnderlyingSpec, days: readonly string[], island: Map<string, number[]>): Session[] {
  const random = new Random(`${spec.symbol} path`);
  const dt = 1 / SESSIONS_PER_YEAR;
  let price = 1;
  const sessions = playVol(spec, days, island, random).map(({ vol, rho, surprise, shock, moves }, at): Session => {
    const day = days[at]!;
    const slide = day === SELL_OFF.day ? SELL_OFF.move * spec.islandShare : 0;
    price *= Math.exp(
      vol * Math.sqrt(OVERNIGHT_SHARE * dt) * moves[0]! + jumpAt(spec, day, 'before', random) + 0.5 * slide,
    );
    const session = { day, open: price, high: price, low: price, close: price, snapshotPrice: price };
    const perStep = vol * Math.sqrt(((1 - OVERNIGHT_SHARE) * dt) / STEPS);
    for (let i = 1; i <= STEPS; i++) {
      price *= Math.exp(perStep * moves[i]! + (0.5 * slide) / STEPS);
      if (i === ANNOUNCEMENT_STEP) price *= Math.exp(jumpAt(spec, day, 'during', random));
      session.high = Math.max(session.high, price);
      session.low = Math.min(session.low, price);
      if (i === SNAPSHOT_STEP) session.snapshotPrice = price;
    }
    const volume = Math.round(2e6 * Math.exp(0.25 * random.normal() + 0.3 * Math.abs(surprise) + shock));
    return { ...session, close: price, volume, vol, rho };
  });
  return scaled(spec, sessions);
}

function jumpAt(spec: UnderlyingSpec, day: string, when: 'before' | 'during', random: Random): number {
  let jump = 0;
  for (const event of spec.events) {
    if (event.day !== day || (event.time < CALENDAR.open ? 'before' : 'during') !== when) continue;
    jump += event.jump * random.normal();
  }
  return jump;
}

/** Scales a path to the price that its story ends with, on the tick. */
function scaled(spec: UnderlyingSpec, sessions: readonly Session[]): Session[] {
  const factor = spec.lastPrice / sessions.at(-1)!.snapshotPrice;
  const round = (value: number) => Math.round((value * factor) / spec.priceTick) * spec.priceTick;
  return sessions.map((session) => ({
    ...session,
    open: round(session.open),
    high: round(session.high),
    low: round(session.low),
    close: round(session.close),
    snapshotPrice: round(session.snapshotPrice),
  }));
}

/** The moment of a session's snapshot. */
export function snapshotInstant(day: string): number {
  return instantOf(CALENDAR, day, CLOCK.snapshotTime);
}

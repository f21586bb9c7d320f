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

const STEPS = 26;
/** The snapshot at 15:45 comes after 25 of the 26 quarters of an hour from 9:30. */
const SNAPSHOT_STEP = 25;
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

/**
 * Plays the market model of an underlying: log of vol returns to its level and rises when the price falls;
 * the price moves by that vol overnight and in 26 steps a session, and jumps at its announcements.
 */
export function playPath(spec: UnderlyingSpec, days: readonly string[], island: Map<string, number[]>): Session[] {
  const random = new Random(`${spec.symbol} path`);
  const { level, reversion, wander, leverage, lastShare } = spec.vol;
  const dt = 1 / SESSIONS_PER_YEAR;
  const pull = Math.exp(-reversion * dt);
  const own = Math.sqrt(1 - spec.islandShare ** 2);
  let logVol = 0;
  let shock = 0;
  let tilt = 0;
  let price = 1;
  const sessions: Session[] = days.map((day) => {
    const isSellOff = day === SELL_OFF.day;
    if (isSellOff) shock = Math.log(SELL_OFF.volFactor) * spec.islandShare;
    const vol = level * Math.exp(logVol + shock);
    const moves = island.get(day)!.map((move) => spec.islandShare * move + own * random.normal());
    const perStep = vol * Math.sqrt(((1 - OVERNIGHT_SHARE) * dt) / STEPS);
    let sum = 0;
    const step = (deviation: number, move: number) => {
      sum += move;
      price *= Math.exp(deviation * move);
    };
    step(vol * Math.sqrt(OVERNIGHT_SHARE * dt), moves[0]!);
    price *= Math.exp(jumpAt(spec, day, 'before', random) + (isSellOff ? 0.5 * SELL_OFF.move * spec.islandShare : 0));
    const session = { day, open: price, high: price, low: price, close: price, snapshotPrice: price };
    for (let i = 1; i <= STEPS; i++) {
      step(perStep, moves[i]!);
      if (i === 19) price *= Math.exp(jumpAt(spec, day, 'during', random));
      if (isSellOff) price *= Math.exp((0.5 * SELL_OFF.move * spec.islandShare) / STEPS);
      session.high = Math.max(session.high, price);
      session.low = Math.min(session.low, price);
      if (i === SNAPSHOT_STEP) session.snapshotPrice = price;
    }
    session.close = price;
    const surprise = sum / Math.sqrt(STEPS + 1);
    logVol = logVol * pull + wander * Math.sqrt(dt) * random.normal() - leverage * surprise;
    shock *= 0.93;
    tilt = 0.9 * tilt + spec.skew.wander * random.normal();
    const volume = Math.round(2e6 * Math.exp(0.25 * random.normal() + 0.3 * Math.abs(surprise) + shock));
    return { ...session, volume, vol, rho: spec.skew.rho + tilt };
  });
  return settle(spec, sessions, lastShare);
}

function jumpAt(spec: UnderlyingSpec, day: string, when: 'before' | 'during', random: Random): number {
  let jump = 0;
  for (const event of spec.events) {
    if (event.day !== day || (event.time < CALENDAR.open ? 'before' : 'during') !== when) continue;
    jump += event.jump * random.normal();
  }
  return jump;
}

/** Scales prices to the last price, and leads vol to where the story ends over the last two months. */
function settle(spec: UnderlyingSpec, sessions: Session[], lastShare: number): Session[] {
  const last = sessions.at(-1)!;
  const scale = spec.lastPrice / last.snapshotPrice;
  const miss = Math.log((lastShare * spec.vol.level) / last.vol);
  const round = (value: number) => Math.round((value * scale) / spec.priceTick) * spec.priceTick;
  return sessions.map((session, i) => {
    const near = Math.max(0, 1 - (sessions.length - 1 - i) / 40);
    return {
      ...session,
      open: round(session.open),
      high: round(session.high),
      low: round(session.low),
      close: round(session.close),
      snapshotPrice: round(session.snapshotPrice),
      vol: session.vol * Math.exp(miss * near),
    };
  });
}

/** The moment of a session's snapshot. */
export function snapshotInstant(day: string): number {
  return instantOf(CALENDAR, day, CLOCK.snapshotTime);
}

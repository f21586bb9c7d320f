import { instantOf, nextSession } from '@umwelt/core';
import { hoursOf, type SessionHours } from './feed-clock';
import {
  boundedTilt,
  jumpAt,
  LAST_QUARTER,
  meanHeat,
  mixed,
  OVERNIGHT_SHARE,
  QUARTER_MS,
  seasonOf,
  SESSIONS_PER_YEAR,
  swingOf,
  type Session,
} from './path';
import { Random } from './random';
import type { Moment } from './smile';
import { CALENDAR, CLOCK, type UnderlyingSpec } from './world';

/** A session to come, by the quarters of an hour. */
interface Leg extends SessionHours {
  /** Log of the price at the beginning of each quarter and at the close, before anything is announced there. */
  before: number[];
  /** The same, after it. */
  after: number[];
  /** Log of vol over its level. */
  heat: number[];
  /** Deviation of the log price over a quarter. */
  deviation: number;
  /** Level of vol and tilt of the skew, to which those of the session before lead over the session. */
  level: number;
  rho: number;
  /** What has turned the tilt away from the swing. */
  tilt: number;
}

/** Prices of a session. */
export type Prices = Record<'open' | 'high' | 'low' | 'close', number>;

const DT = 1 / SESSIONS_PER_YEAR;
const SECONDS = QUARTER_MS / 1000;
const SOURCES = ['island', 'water', 'own'] as const;

/** What a source moves in a session: overnight, then each quarter. */
function drawn(name: string, day: string, count: number): number[] {
  const random = new Random(`${name} ${day} onward`);
  return Array.from({ length: count }, () => random.normal());
}

/** Bridges of the shared sources: all underlyings ask for the same ones. */
const shared = new Map<string, Float64Array>();
const MOST_SHARED = 64;

function sharedBridge(source: string, day: string, quarter: number): Float64Array {
  const key = `${source} ${day} ${quarter}`;
  let walk = shared.get(key);
  if (!walk) shared.set(key, (walk = bridge(source, day, quarter)));
  for (const oldest of shared.keys()) if (shared.size > MOST_SHARED) shared.delete(oldest);
  return walk;
}

/** A walk of deviation one over a quarter that ends where it began: what moves inside it, by the second. */
function bridge(name: string, day: string, quarter: number): Float64Array {
  const random = new Random(`${name} ${day} ${quarter} bridge`);
  const walk = new Float64Array(SECONDS + 1);
  for (let s = 1; s <= SECONDS; s++) walk[s] = walk[s - 1]! + random.normal() / Math.sqrt(SECONDS);
  const end = walk[SECONDS]!;
  return walk.map((value, s) => value - (end * s) / SECONDS);
}

/**
 * How an underlying goes on after its last session: by the model that played it up to there (see path.ts), as a function
 * of the moment alone, so that everyone, at any time, sees the same market.
 */
export class Onward {
  private readonly legs: Leg[];
  private latest: { leg: Leg; from: Leg };
  private latestBar: { day: string; bar: Prices } | null = null;
  private inside: { key: string; walk: Float64Array } | null = null;

  /** @param last the last session of the world, whose last quarter is still to come */
  constructor(
    private readonly spec: UnderlyingSpec,
    last: Session,
  ) {
    const hours = hoursOf(last.day);
    const { reversion, leverage } = spec.vol;
    const known = last.quarters.map(Math.log);
    const end = Math.log(last.close);
    const heat = new Array<number>(hours.quarters + 1).fill(Math.log(last.vol / last.level));
    const share = (1 - OVERNIGHT_SHARE) / hours.quarters;
    const surprise = (end - known[LAST_QUARTER]!) / (last.vol * Math.sqrt(DT));
    const mean = meanHeat(spec.vol);
    heat[hours.quarters] =
      mean + (heat[LAST_QUARTER]! - mean) * Math.exp(-reversion * DT * share) - leverage * surprise;
    this.legs = [
      {
        ...hours,
        before: [...known, end],
        after: [...known, end],
        heat,
        deviation: last.vol * Math.sqrt(share * DT),
        level: last.level,
        rho: last.rho,
        tilt: 0,
      },
    ];
    this.latest = { leg: this.legs[0]!, from: this.legs[0]! };
  }

  /** The leg of a session, and the one before; legs that are missing are made first. */
  private leg(day: string): { leg: Leg; from: Leg } {
    if (this.latest.leg.day === day) return this.latest;
    let at = this.legs.findIndex((leg) => leg.day === day);
    while (at < 0) {
      if (this.legs.at(-1)!.day > day) throw new RangeError(`${day} is no session that is still to come`);
      this.legs.push(this.made(nextSession(CALENDAR, this.legs.at(-1)!.day)));
      if (this.legs.at(-1)!.day === day) at = this.legs.length - 1;
    }
    this.latest = { leg: this.legs[at]!, from: this.legs[Math.max(0, at - 1)]! };
    return this.latest;
  }

  private made(day: string): Leg {
    const { spec } = this;
    const { reversion, wander, leverage } = spec.vol;
    const first = this.legs[0]!;
    const from = this.legs.at(-1)!;
    const hours = hoursOf(day);
    const [island, water, own] = SOURCES.map((source) =>
      drawn(source === 'own' ? spec.symbol : source, day, hours.quarters + 1),
    );
    const luck = new Random(`${spec.symbol} ${day} vol onward`);
    const level = (first.level * seasonOf(spec, day)) / seasonOf(spec, first.day);
    const announced = (quarter: number | null) => jumpAt(spec, day, quarter, new Random(`${spec.symbol} ${day} news`));
    const before: number[] = [];
    const after: number[] = [];
    const heat: number[] = [];
    let price = from.after.at(-1)!;
    let hot = from.heat.at(-1)!;
    const mean = meanHeat(spec.vol);
    /** Moves price and vol on by a share of a session. */
    const move = (part: number, share: number) => {
      const size = mixed(spec, { island: island![part]!, water: water![part]!, own: own![part]! });
      price += level * Math.exp(hot) * Math.sqrt(share * DT) * size;
      hot =
        mean +
        (hot - mean) * Math.exp(-reversion * DT * share) +
        wander * Math.sqrt(DT * share) * luck.normal() -
        leverage * Math.sqrt(share) * size;
    };
    move(0, OVERNIGHT_SHARE);
    price += spec.drift * DT + announced(null);
    const deviation = level * Math.exp(hot) * Math.sqrt(((1 - OVERNIGHT_SHARE) / hours.quarters) * DT);
    for (let quarter = 0; quarter <= hours.quarters; quarter++) {
      if (quarter > 0) move(quarter, (1 - OVERNIGHT_SHARE) / hours.quarters);
      before.push(price);
      price += announced(quarter);
      after.push(price);
      heat.push(hot);
    }
    const tilt = 0.9 * from.tilt + spec.skew.wander * luck.normal();
    const turned = swingOf(spec, 1 + this.legs.length / CLOCK.sessions) - swingOf(spec, 1);
    return { ...hours, before, after, heat, deviation, level, rho: boundedTilt(first.rho + tilt + turned), tilt };
  }

  /** What moves inside a quarter. */
  private walk(day: string, quarter: number): Float64Array {
    const key = `${day} ${quarter}`;
    if (this.inside?.key !== key) {
      const island = sharedBridge('island', day, quarter);
      const water = sharedBridge('water', day, quarter);
      const own = bridge(this.spec.symbol, day, quarter);
      const walk = own.map((value, s) => mixed(this.spec, { island: island[s]!, water: water[s]!, own: value }));
      this.inside = { key, walk };
    }
    return this.inside.walk;
  }

  /** The market at a moment of a session: the price is not on its tick. */
  at(day: string, moment: number): Moment {
    const { leg, from } = this.leg(day);
    const ofSession = (moment - leg.open) / (leg.close - leg.open);
    const quarter = Math.min(leg.quarters - 1, Math.floor((moment - leg.open) / QUARTER_MS));
    const inside = moment - leg.open - quarter * QUARTER_MS;
    const share = inside / QUARTER_MS;
    const off = this.walk(day, quarter)[Math.floor(inside / 1000)]!;
    const between = (a: number, b: number, part: number) => a + (b - a) * part;
    const level = between(from.level, leg.level, ofSession);
    const perQuarter = Math.sqrt((1 - OVERNIGHT_SHARE) / leg.quarters);
    const heat = between(leg.heat[quarter]!, leg.heat[quarter + 1]!, share) - this.spec.vol.leverage * perQuarter * off;
    return {
      asof: moment,
      day,
      price: Math.exp(between(leg.after[quarter]!, leg.before[quarter + 1]!, share) + leg.deviation * off),
      vol: level * Math.exp(heat),
      level,
      rho: between(from.rho, leg.rho, ofSession),
    };
  }

  /** By how many deviations of a day the price moves from the close before to that of a session. */
  stir(day: string): number {
    const { leg, from } = this.leg(day);
    const move = leg.before.at(-1)! - from.after.at(-1)!;
    return Math.abs(move) / (leg.level * Math.exp(leg.heat[0]!) * Math.sqrt(DT));
  }

  /** Open, high, low and close of a session, by the second from a moment on. */
  bar(day: string, from = instantOf(CALENDAR, day, CALENDAR.open)): Prices {
    if (this.latestBar?.day === day) return this.latestBar.bar;
    const { close } = this.leg(day).leg;
    const open = this.at(day, from).price;
    const bar = { open, high: open, low: open, close: open };
    for (let moment = from; moment <= close; moment += 1000) {
      bar.close = this.at(day, moment).price;
      bar.high = Math.max(bar.high, bar.close);
      bar.low = Math.min(bar.low, bar.close);
    }
    this.latestBar = { day, bar };
    return bar;
  }
}

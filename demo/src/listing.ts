import { MILLISECONDS_PER_DAY, namedExpiry, normalInverse, previousSession } from '@umwelt/core';
import { inNewTerms, inOldTerms, sharesOf } from './adjust';
import { SESSIONS_PER_YEAR } from './path';
import { hashOf, uniformAt } from './random';
import { expiriesAt, smileOf, type Moment, type Smile } from './smile';
import { CALENDAR, type Adjustment, type UnderlyingSpec } from './world';

/** What is listed of an underlying, how much of it is traded, and how many contracts are open. */

/** How much more strikes than usual an expiry may have in wild times, before they lie further apart. */
const MOST_CROWDED = 1.7;

/**
 * The strikes that are quoted for an expiry in a session: as far as prices may go in it and after it. How far apart they lie
 * depends on the usual level of vol, so that a list does not thin out for a day.
 *
 * @param vol at the first moment of the session
 */
function strikesOf(
  { strikes: { step, offset, most }, vol: { level } }: UnderlyingSpec,
  smile: Smile,
  vol: number,
): number[] {
  const width = smile.humps.length > 0 ? 0.25 : 0;
  const reachOf = (deviation: number, ofDay: number) => Math.max(0.04, 3.1 * deviation + width, 3.2 * ofDay);
  const ends = (reach: number) =>
    [smile.forward * Math.exp(-1.15 * reach), smile.forward * Math.exp(0.9 * reach)] as const;
  const [from, to] = ends(reachOf(Math.sqrt(smile.theta), vol / Math.sqrt(SESSIONS_PER_YEAR)));
  const [low, high] = ends(reachOf(level * Math.sqrt(smile.years), level / Math.sqrt(SESSIONS_PER_YEAR)));
  let apart = step;
  while ((high - low) / apart > most || (to - from) / apart > MOST_CROWDED * most) apart *= 2;
  const strikes: number[] = [];
  for (let n = Math.ceil((from - offset) / apart); n * apart + offset <= to; n++) {
    strikes.push(Number((n * apart + offset).toFixed(6)));
  }
  return strikes;
}

/** Expiries that were listed before the adjustment, on a day from it on: their strikes are old ones. */
function adjustedExpiries(spec: UnderlyingSpec, day: string): ReadonlySet<string> {
  const { adjustment } = spec;
  if (!adjustment || day < adjustment.exDate) return new Set();
  return new Set(expiriesAt(previousSession(CALENDAR, adjustment.exDate), spec));
}

/** The same of an expiry that was listed before an adjustment: the strikes of then in the terms of now. */
function adjustedStrikes(spec: UnderlyingSpec, adjustment: Adjustment, smile: Smile, vol: number): number[] {
  const then = { ...smile, forward: inOldTerms(adjustment, smile.forward) };
  return strikesOf(spec, then, vol).map((strike) => inNewTerms(adjustment, strike));
}

/** How much of a session's volume has been traded: most at the open and towards the close. */
export function tradedShare(ofSession: number): number {
  const x = 2 * ofSession - 1;
  return 0.5 + 0.3 * x + 0.2 * x * x * x;
}

/** How much more is traded when the price has moved. */
function bustle(stir: number): number {
  return 0.6 + 0.4 * Math.min(stir, 4);
}

/** How much of what is traded on a day of ordinary moves has been traded. @param stir as for {@link Listing.volumes} */
export function turnover(stir: number, ofSession: number): number {
  return tradedShare(ofSession) * bustle(stir);
}

/** A contract of a session, with what stays through it. */
interface Listed {
  strike: number;
  sign: 1 | -1;
  /** Contracts traded on a day of ordinary moves. */
  busy: number;
  /** Open interest where none is known of the sessions before. */
  usual: number;
  /** Share of a session's volume by which its open interest changes: below nought more are closed than opened. */
  opened: number;
}

/** What is listed in a session, by expiry: it depends on the market at its first moment alone. */
export class Listing {
  readonly strikes = new Map<string, readonly number[]>();
  private readonly contracts = new Map<string, readonly Listed[]>();

  /** @param opening the first moment of the session */
  constructor(
    readonly spec: UnderlyingSpec,
    opening: Moment,
  ) {
    const ofDay = hashOf(`${spec.symbol} ${opening.day}`);
    const adjusted = adjustedExpiries(spec, opening.day);
    for (const expiry of expiriesAt(opening.day, spec)) {
      const smile = smileOf(spec, opening, expiry);
      if (smile.years <= 0) continue;
      const strikes = adjusted.has(expiry)
        ? adjustedStrikes(spec, spec.adjustment!, smile, opening.vol)
        : strikesOf(spec, smile, opening.vol);
      this.strikes.set(expiry, strikes);
      const expiryDay = Date.parse(namedExpiry(expiry)!.expiry) / MILLISECONDS_PER_DAY;
      const hash = hashOf(`${spec.symbol} ${expiry}`);
      const deviation = deviationOf(smile);
      const listed: Listed[] = [];
      for (const sign of [1, -1] as const) {
        for (const strike of strikes) {
          const z = Math.log(strike / smile.forward) / deviation;
          listed.push(activityOf(spec, smile.years, z, strike, sign, hash, ofDay ^ expiryDay));
        }
      }
      this.contracts.set(expiry, listed);
    }
  }

  /** Contracts of an expiry, calls first, strikes ascending. */
  of(expiry: string): readonly Listed[] {
    return this.contracts.get(expiry) ?? [];
  }

  /**
   * What has been traded of each contract, by contract.
   *
   * @param stir the furthest that the price has been from the close before, in deviations of a day
   * @param ofSession share of the session that is over
   */
  volumes(stir: number, ofSession: number): Map<string, number> {
    const traded = turnover(stir, ofSession);
    const volumes = new Map<string, number>();
    for (const [expiry, listed] of this.contracts) {
      for (const { strike, sign, busy } of listed) {
        volumes.set(contractOf({ expiry, strike, side: sign > 0 ? 'C' : 'P' }), Math.floor(busy * traded));
      }
    }
    return volumes;
  }
}

/**
 * Open interest, which changes once a session and by no more than the session has traded: it builds while an expiry is
 * to come, and stays about what it is in the last days.
 */
export class OpenInterest {
  /** By expiry, then by strike: that of a put is negative. */
  private readonly held = new Map<string, Map<number, number>>();
  private isFirst = true;

  /** Another one that goes on by itself. */
  copy(): OpenInterest {
    const other = new OpenInterest();
    for (const [expiry, counts] of this.held) other.held.set(expiry, new Map(counts));
    other.isFirst = this.isFirst;
    return other;
  }

  /** Takes all contracts into the terms of after an adjustment. */
  adjust(adjustment: Adjustment): void {
    for (const [expiry, counts] of this.held) {
      const adjusted = [...counts].map(([key, count]) => {
        const strike = Math.sign(key) * inNewTerms(adjustment, Math.abs(key));
        return [strike, count * sharesOf(adjustment)] as const;
      });
      this.held.set(expiry, new Map(adjusted));
    }
  }

  /** Of a contract before the session that has been begun last. */
  of(expiry: string, strike: number, sign: 1 | -1): number {
    return this.held.get(expiry)?.get(sign * strike) ?? 0;
  }

  /**
   * Begins a session: an expiry that is seen for the first time has been traded for some days, one of the first session for
   * long, and a strike that is added later has not been traded at all.
   */
  begin(listing: Listing): void {
    for (const expiry of listing.strikes.keys()) {
      if (this.held.has(expiry)) continue;
      const share = this.isFirst ? 1 : NEW_SHARE;
      this.held.set(
        expiry,
        new Map(listing.of(expiry).map(({ strike, sign, usual }) => [sign * strike, Math.floor(usual * share)])),
      );
    }
    this.isFirst = false;
  }

  /** Ends a session with what has been traded in it, as for {@link Listing.volumes}. */
  end(listing: Listing, stir: number, ofSession: number): void {
    const traded = turnover(stir, ofSession);
    for (const expiry of listing.strikes.keys()) {
      const counts = this.held.get(expiry)!;
      for (const { strike, sign, busy, opened } of listing.of(expiry)) {
        const key = sign * strike;
        const change = Math.trunc(Math.floor(busy * traded) * opened);
        counts.set(key, Math.max(0, (counts.get(key) ?? 0) + change));
      }
    }
  }
}

/** Open interest of an expiry when it is seen first, as a share of that of one that has been traded for long. */
const NEW_SHARE = 1 / 8;

/** Deviation by which contracts are near or far. */
export function deviationOf({ theta, humps }: Smile): number {
  return Math.sqrt(theta + (humps.length > 0 ? 0.15 : 0));
}

/** How near the money a contract is, from 0 to 1: calls a little above the forward, puts a little under it. */
export function nearness(z: number, sign: 1 | -1): number {
  const centre = sign > 0 ? 0.4 : -0.6;
  return Math.exp(-0.5 * ((z - centre) / 1.1) ** 2);
}

/** How much more is traded of a strike that is round in steps of its list. */
function roundness({ strikes: { step, offset } }: UnderlyingSpec, strike: number): number {
  const n = Math.round((strike - offset) / step);
  return n % 20 === 0 ? 2.4 : n % 4 === 0 ? 1.5 : n % 2 === 0 ? 1 : 0.7;
}

/** In its last days as much of an expiry is closed as opened; before them more is opened. */
const CLOSING_YEARS = 5 / 365;

/**
 * What people trade: most near the money and at round strikes, in the near monthlies.
 *
 * @param hash of the underlying and the expiry; `ofDay` of those and the day
 */
function activityOf(
  spec: UnderlyingSpec,
  years: number,
  z: number,
  strike: number,
  sign: 1 | -1,
  hash: number,
  ofDay: number,
): Listed {
  const { activity, putCall } = spec;
  const ofSide = (2 * (sign > 0 ? 1 : putCall)) / (1 + putCall);
  const uniform = uniformAt(hash, strike * 10_000, sign);
  const liking = (0.4 + 1.2 * uniform ** 2) * roundness(spec, strike) * ofSide;
  const base = ((activity / 120) * nearness(z, sign) * liking) / (1 + 5 * years);
  const luck = uniformAt(ofDay, strike * 10_000, 3 * sign);
  return {
    strike,
    sign,
    busy: base * Math.exp(0.7 * normalInverse(uniformAt(ofDay, strike * 10_000, sign))),
    usual: Math.floor(16 * base * (1 - Math.exp(-4 * Math.max(0.05, 0.6 - years)))),
    opened: (years > CLOSING_YEARS ? 0.35 : 0) + 0.8 * (luck - 0.5),
  };
}

/** What tells a contract from the others of its underlying. */
export interface Contract {
  /** Name of its expiry: the day, with am behind it where it settles in the morning. */
  expiry: string;
  strike: number;
  side: 'C' | 'P';
}

/** A contract's name inside an underlying. */
export const contractOf = ({ expiry, strike, side }: Contract) => `${expiry} ${strike} ${side}`;

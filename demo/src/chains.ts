import type { MarketTerms, Snapshot, SliceQuotes } from '@umwelt/core';
import { emptySide, expiryInstant, namedExpiry } from '@umwelt/core';
import { inNewTerms } from './adjust';
import { stirOf } from './market';
import { LAST_QUARTER, type Session } from './path';
import { plantFaults, plantStale, type Fault } from './faults';
import { Listing, OpenInterest } from './listing';
import { quotesAt, type Quote } from './quotes';
import { Random } from './random';
import { momentOf, ratesOf, smileOf, type Moment, type Smile } from './smile';
import { CALENDAR, CLOCK, QUARTERS, type Adjustment, type UnderlyingSpec } from './world';

/** The chain of an underlying at a moment as published, and as it was before faults were planted. */
export interface ToldChain {
  session: Session;
  quarter: number;
  moment: Moment;
  quotes: Quote[];
  /** The quotes without the faults. */
  clean: Quote[];
  faults: Fault[];
}

/** A contract stands still from every so manieth session on, until the next one does. */
const STALE_SESSIONS = 5;

/**
 * The chains of an underlying through the year: one a session, on full days each quarter of an hour.
 *
 * @param beforeFaults is shown the quotes of a moment while nothing is wrong with them, and may change them
 */
export function* chainsOf(
  spec: UnderlyingSpec,
  sessions: readonly Session[],
  beforeFaults?: (session: Session, quarter: number, quotes: Quote[]) => void,
): Generator<ToldChain> {
  const { symbol } = spec;
  const interest = new OpenInterest();
  /** The chain from which one contract stands still, and its price. */
  let then: { quotes: Quote[]; price: number; day: string } | null = null;
  for (let i = 0; i < sessions.length; i++) {
    const session = sessions[i]!;
    const before = sessions[Math.max(0, i - 1)]!;
    if (!isTraded(spec, session.day)) continue;
    const play = new SessionPlay(spec, session, before);
    play.begin(interest);
    // A quote of before an adjustment is of another contract.
    if (session.day === spec.adjustment?.exDate) then = null;
    const isFull = CLOCK.fullDays.includes(session.day) || spec.fullDays.includes(session.day);
    for (let quarter = isFull ? 0 : LAST_QUARTER; quarter < QUARTERS; quarter++) {
      if (session.day === spec.missingDay) break;
      const moment = momentOf(session, before, quarter);
      const quotes = quotesAt(play.listing, moment, { ...play.traded(quarter), interest });
      beforeFaults?.(session, quarter, quotes);
      const clean = quotes.map((quote) => ({ ...quote }));
      const faults = plantFaults(quotes, moment.price, new Random(`${symbol} ${moment.asof} faults`));
      if (then) faults.push(...plantStale(quotes, then.quotes, then.price, new Random(`${symbol} ${then.day} stale`)));
      if (quarter === LAST_QUARTER && i % STALE_SESSIONS === 0) {
        then = { quotes: clean, price: moment.price, day: session.day };
      }
      yield { session, quarter, moment, quotes, clean, faults };
    }
    play.end(interest);
  }
}

/** Whether an underlying is traded on a day of the stored year. */
export function isTraded({ expires, haltedDay }: UnderlyingSpec, day: string): boolean {
  return day !== haltedDay && (expires === undefined || day < expires);
}

/** A session of the stored year as it is traded. */
export class SessionPlay {
  readonly listing: Listing;
  /** What contracts are adjusted for at its open. */
  private readonly adjustment: Adjustment | null;
  /** The session before, in the terms of this one. */
  private readonly before: Session;

  constructor(
    spec: UnderlyingSpec,
    private readonly session: Session,
    before: Session,
  ) {
    this.adjustment = spec.adjustment?.exDate === session.day ? spec.adjustment : null;
    this.before = this.adjustment ? { ...before, close: inNewTerms(this.adjustment, before.close) } : before;
    this.listing = new Listing(spec, momentOf(session, before, 0));
  }

  /** Begins the session with open interest of before. */
  begin(interest: OpenInterest): void {
    if (this.adjustment) interest.adjust(this.adjustment);
    interest.begin(this.listing);
  }

  /** How much has been traded when a quarter of an hour begins: nothing of it is ever taken back. */
  traded(quarter: number): { stir: number; ofSession: number } {
    const prices = this.session.quarters.slice(0, quarter + 1);
    return {
      stir: Math.max(...prices.map((price) => stirOf(price, this.before))),
      ofSession: (quarter + 1) / QUARTERS,
    };
  }

  /** Ends the session: open interest is that before the next one. */
  end(interest: OpenInterest): void {
    const { stir, ofSession } = this.traded(LAST_QUARTER);
    interest.end(this.listing, stir, ofSession);
  }
}

/** Open interest of an underlying before a session of the stored year. */
export function interestBefore(spec: UnderlyingSpec, sessions: readonly Session[], at: number): OpenInterest {
  const interest = new OpenInterest();
  for (let i = 0; i < at; i++) {
    if (!isTraded(spec, sessions[i]!.day)) continue;
    const play = new SessionPlay(spec, sessions[i]!, sessions[Math.max(0, i - 1)]!);
    play.begin(interest);
    play.end(interest);
  }
  return interest;
}

/**
 * What the market of a moment had in mind, by expiry: the forward that parity should find, and the smile from which
 * {@link volAt} has the vol of each contract.
 */
export function trueSmiles(
  spec: UnderlyingSpec,
  moment: Moment,
  quotes: readonly Pick<Quote, 'expiry'>[],
): Map<string, Smile> {
  const expiries = new Set(quotes.map(({ expiry }) => expiry));
  return new Map([...expiries].map((expiry) => [expiry, smileOf(spec, moment, expiry)]));
}

/** Quotes as the core takes them: one slice an expiry, strikes ascending. */
export function snapshotOf(
  symbol: string,
  { asof, price }: Pick<Moment, 'asof' | 'price'>,
  quotes: readonly Quote[],
): Snapshot {
  const byExpiry = new Map<string, Quote[]>();
  for (const quote of quotes) {
    const own = byExpiry.get(quote.expiry);
    if (own) own.push(quote);
    else byExpiry.set(quote.expiry, [quote]);
  }
  const slices = [...byExpiry].map(([name, own]): SliceQuotes => {
    const strike = Float64Array.from(new Set(own.map((quote) => quote.strike))).sort();
    const at = new Map(Array.from(strike, (level, i) => [level, i]));
    const slice = { ...namedExpiry(name)!, strike, call: emptySide(at.size), put: emptySide(at.size) };
    for (const quote of own) {
      const side = quote.side === 'C' ? slice.call : slice.put;
      const i = at.get(quote.strike)!;
      side.bid[i] = quote.bid;
      side.ask[i] = quote.ask;
      side.bidSize[i] = quote.bidSize;
      side.askSize[i] = quote.askSize;
      side.last[i] = quote.last ?? NaN;
      side.volume[i] = quote.volume;
      side.openInterest[i] = quote.openInterest;
    }
    return slice;
  });
  const life = ({ expiry, settlement }: SliceQuotes) => expiryInstant(CALENDAR, expiry, settlement);
  return { symbol, asof, price, slices: slices.sort((a, b) => life(a) - life(b)) };
}

/** What is known beside the quotes of a day. */
export function termsOf({ kind, exercise, currency, dividends }: UnderlyingSpec, day: string): MarketTerms {
  const curve = ratesOf(day).filter((node) => node.currency === currency);
  return {
    kind,
    exercise,
    calendar: CALENDAR,
    rates: { days: curve.map(({ days }) => days), rate: curve.map(({ rate }) => rate) },
    dividends,
  };
}

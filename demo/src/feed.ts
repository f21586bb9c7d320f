import { nextSession } from '@umwelt/core';
import { interestBefore, SessionPlay } from './chains';
import { FEED_START, hoursAt, hoursOf, type SessionHours } from './feed-clock';
import { lineageOf, World, type Lineage } from './market';
import { Onward } from './onward';
import { LAST_QUARTER, QUARTER_MS, roundTo, type Session } from './path';
import { printsOf, type Print } from './prints';
import { contractOf, Listing, type OpenInterest } from './listing';
import { quotesAt, type Quote } from './quotes';
import { Random, uniformAt } from './random';
import { ratesOf, type Moment } from './smile';
import { CALENDAR, QUARTERS, type Follower, type UnderlyingSpec } from './world';

/** A session of an underlying as its quotes need it. */
interface Playing {
  hours: SessionHours;
  /** What is listed: from the first moment of the session until the close. */
  listing: Listing;
  stir: number;
  interest: OpenInterest;
  /** Whether it is the last session of the world. */
  isFirst: boolean;
}

/** What is traded in a quarter of an hour, and what had been before. */
interface Tape {
  from: number;
  volumes: Map<string, number>;
  lasts: Map<string, number | null>;
  prints: Print[];
}

/** How long a quote stays as it is, apart from what price and vol do to it. */
const RENEWED_AFTER_MS = { least: 20_000, spread: 70_000 };

/** A number without the dust of binary fractions. */
const clean = (value: number) => Math.round(value * 1e5) / 1e5;

/** Share of a session's trading that is over: the last quarter of the world's last one comes after its last snapshot. */
function shareOf(hours: SessionHours, at: number, isFirst: boolean): number {
  return isFirst ? ((at - hours.open) / QUARTER_MS + 1) / QUARTERS : (at - hours.open) / (hours.close - hours.open);
}

/** A bar of a session. */
export interface FeedBar {
  symbol: string;
  date: string;
  open: number;
  high: number;
  low: number;
  close: number;
  volume: number;
}

/**
 * The market of the demo world after its last moment. Everything is a function of the moment: two feeds that are asked
 * for the same say the same, in whatever order. Without the planted faults of the stored sessions.
 */
export class Feed {
  private readonly world = new World();
  private readonly lineages = new Map<string, Lineage>();
  private readonly roots = new Map<string, Onward>();
  private readonly playing = new Map<string, Playing>();
  private readonly tapes = new Map<string, Tape>();
  /** Open interest before the last session of the world. */
  private readonly stored = new Map<string, OpenInterest>();

  private lineage(symbol: string): Lineage {
    let lineage = this.lineages.get(symbol);
    if (!lineage) this.lineages.set(symbol, (lineage = lineageOf(symbol)));
    return lineage;
  }

  private root({ symbol }: UnderlyingSpec, spec = this.lineage(symbol).root): Onward {
    let root = this.roots.get(symbol);
    if (!root) this.roots.set(symbol, (root = new Onward(spec, this.world.path(symbol).at(-1)!)));
    return root;
  }

  /** Whether an underlying is still quoted in the session of a moment. */
  isQuoted(symbol: string, moment: number): boolean {
    const { expires } = this.lineage(symbol).spec;
    return expires === undefined || hoursAt(moment).day < expires;
  }

  /** The price of an underlying when its root stands at one: on the tick of the root first, as the stored sessions. */
  private onTick({ spec, root, follower }: Lineage, price: number, day: string): number {
    const ofRoot = roundTo(price, root.priceTick);
    if (!follower) return clean(ofRoot);
    return clean(roundTo(this.seen(follower, ofRoot, day), spec.priceTick));
  }

  /** The price of a follower: a delivery goes on from its last price, by what its nearness lets it move. */
  private seen(follower: Follower, ofRoot: number, day: string): number {
    if (!follower.alike) return follower.price(ofRoot, day);
    const last = this.world.path(follower.of).at(-1)!;
    const then = last.quarters[LAST_QUARTER]!;
    const [size, share] = [follower.volFactor(last.day), follower.alike(last.day)];
    const atEnd = day === last.day ? ofRoot : last.close;
    return follower.price(then, last.day) * (atEnd / then) ** (size * share) * (ofRoot / atEnd) ** size;
  }

  /** Price and vol of an underlying at a moment from {@link FEED_START} on, in whole seconds. */
  moment(symbol: string, at: number): Moment {
    const lineage = this.lineage(symbol);
    const { day } = hoursAt(at);
    const of = this.root(lineage.root).at(day, at);
    const price = this.onTick(lineage, of.price, day);
    const { follower } = lineage;
    if (!follower) return { ...of, price };
    const factor = follower.volFactor(day);
    return { ...of, price, vol: of.vol * factor, level: of.level * factor, rho: follower.sign * of.rho };
  }

  private session(symbol: string, at: number): Playing {
    const hours = hoursAt(at);
    const known = this.playing.get(symbol);
    if (known?.hours.day === hours.day) return known;
    const playing = this.played(symbol, hours, this.interestBefore(symbol, hours.day));
    this.playing.set(symbol, playing);
    return playing;
  }

  private played(symbol: string, hours: SessionHours, interest: OpenInterest): Playing {
    const { spec, root } = this.lineage(symbol);
    const [before, last] = this.world.path(symbol).slice(-2) as [Session, Session];
    if (hours.day === last.day) {
      const play = new SessionPlay(spec, last, before);
      interest.begin(play.listing);
      return { hours, interest, listing: play.listing, stir: play.traded(LAST_QUARTER).stir, isFirst: true };
    }
    const listing = new Listing(spec, this.moment(symbol, hours.open));
    interest.begin(listing);
    return { hours, interest, listing, stir: this.root(root).stir(hours.day), isFirst: false };
  }

  /** Open interest before a session: what the sessions before it have left. */
  private interestBefore(symbol: string, day: string): OpenInterest {
    const { spec } = this.lineage(symbol);
    const path = this.world.path(symbol);
    let stored = this.stored.get(symbol);
    if (!stored) this.stored.set(symbol, (stored = interestBefore(spec, path, path.length - 1)));
    const interest = stored.copy();
    for (let at = path.at(-1)!.day; at < day; at = nextSession(CALENDAR, at)) {
      const hours = hoursOf(at);
      const { listing, stir, isFirst } = this.played(symbol, hours, interest);
      interest.end(listing, stir, shareOf(hours, hours.close, isFirst));
    }
    return interest;
  }

  /** The bare chain: price, vol and spreads, without what depends on trades. */
  private quotes(symbol: string, at: number): Quote[] {
    const { listing, stir, interest } = this.session(symbol, at);
    const renew = (random: Random, hash: number, strike: number, sign: 1 | -1) => {
      const own = uniformAt(hash, strike * 10_000, 7 * sign);
      const turn = Math.floor(at / (RENEWED_AFTER_MS.least + RENEWED_AFTER_MS.spread * own) + 1000 * own);
      random.restart(hash, strike * 10_000 + sign, turn);
    };
    return quotesAt(listing, this.moment(symbol, at), { stir, ofSession: 1, interest, renew });
  }

  /** Contracts traded since the session began, by contract. */
  private volumes(symbol: string, at: number): Map<string, number> {
    const { hours, listing, stir, isFirst } = this.session(symbol, at);
    return listing.volumes(stir, shareOf(hours, at, isFirst));
  }

  /** The tape of the quarter in which a moment lies; the close ends the last one. */
  private tape(symbol: string, at: number): Tape {
    const { hours } = this.session(symbol, at);
    const quarter = Math.min(hours.quarters - 1, Math.floor((at - hours.open) / QUARTER_MS));
    const from = hours.open + quarter * QUARTER_MS;
    const known = this.tapes.get(symbol);
    if (known?.from === from) return known;
    const to = from + QUARTER_MS;
    const volumes = this.volumes(symbol, from);
    const lasts = new Map(
      this.quotes(symbol, from).map((quote) => [
        contractOf(quote),
        volumes.get(contractOf(quote)) ? (quote.last ?? clean(quote.ask)) : null,
      ]),
    );
    const gained = new Map<string, number>();
    for (const [contract, now] of this.volumes(symbol, to)) gained.set(contract, now - (volumes.get(contract) ?? 0));
    const { optionTick } = this.lineage(symbol).spec;
    const prints = printsOf(symbol, this.quotes(symbol, to), gained, from, to, optionTick);
    const tape = { from, volumes, lasts, prints };
    this.tapes.set(symbol, tape);
    return tape;
  }

  /** The chain of an underlying at a moment, with what has been traded up to it. */
  chain(symbol: string, at: number): { price: number; quotes: Quote[] } {
    const tape = this.tape(symbol, at);
    const traded = new Map<string, { size: number; last: number }>();
    for (const print of tape.prints) {
      if (print.time > at) break;
      const contract = contractOf(print);
      traded.set(contract, { size: (traded.get(contract)?.size ?? 0) + print.size, last: print.price });
    }
    const quotes = this.quotes(symbol, at).map((quote) => {
      const contract = contractOf(quote);
      const now = traded.get(contract);
      const last = now?.last ?? tape.lasts.get(contract) ?? null;
      return {
        ...quote,
        bid: clean(quote.bid),
        ask: clean(quote.ask),
        last: last === null ? null : clean(last),
        volume: (tape.volumes.get(contract) ?? 0) + (now?.size ?? 0),
      };
    });
    return { price: this.moment(symbol, at).price, quotes };
  }

  /** Trades after one moment, up to and with another of the same session. */
  prints(symbol: string, after: number, until: number): Print[] {
    const found: Print[] = [];
    const { open } = hoursAt(until);
    let last: Tape | null = null;
    for (let at = Math.max(after, open); ; at = Math.min(until, at + QUARTER_MS)) {
      const tape = this.tape(symbol, at);
      // The steps begin within a quarter: the last two may end in the same.
      for (const print of tape === last ? [] : tape.prints) {
        if (print.time > after && print.time <= until) found.push({ ...print, price: clean(print.price) });
      }
      if (at >= until) return found;
      last = tape;
    }
  }

  /** The bar of a session, known at its close. */
  bar(symbol: string, day: string): FeedBar {
    const lineage = this.lineage(symbol);
    const onward = this.root(lineage.root);
    const last = this.world.path(symbol).at(-1)!;
    const isFirst = day === last.day;
    const of = onward.bar(day, isFirst ? FEED_START : undefined);
    const onTick = (price: number) => this.onTick(lineage, price, day);
    const ends = [onTick(of.high), onTick(of.low), ...(isFirst ? [last.high, last.low] : [])];
    const random = new Random(`${symbol} ${day} volume onward`);
    return {
      symbol,
      date: day,
      open: isFirst ? clean(last.open) : onTick(of.open),
      high: clean(Math.max(...ends)),
      low: clean(Math.min(...ends)),
      close: onTick(of.close),
      volume: Math.round(2e6 * Math.exp(0.25 * random.normal() + 0.3 * this.session(symbol, hoursOf(day).close).stir)),
    };
  }

  /** The rate curves of a session. */
  readonly rates = ratesOf;
}

import { FEED_START, hoursAt, hoursOf, type SessionHours } from './feed-clock';
import { lineageOf, stirOf, World, type Lineage } from './market';
import { Onward } from './onward';
import { LAST_QUARTER, QUARTER_MS, roundTo, type Session } from './path';
import { printsOf, type Print } from './prints';
import { contractOf, quotesAt, strikesOf, volumesOf, type Quote } from './quotes';
import { Random, uniformAt } from './random';
import { expiriesAt, momentOf, ratesOf, smileOf, type Moment } from './smile';
import { QUARTERS, type UnderlyingSpec } from './world';

/** A session of an underlying as its quotes need it. */
interface Playing {
  hours: SessionHours;
  /** The market at its first moment: strikes and open interest are those until the close. */
  opening: Moment;
  stir: number;
  strikes: Map<string, readonly number[]>;
  openInterest: Map<string, number>;
  /** What had been traded before the feed began; nothing in later sessions. */
  told: Map<string, number>;
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
    return clean(follower ? roundTo(follower.price(ofRoot, day), spec.priceTick) : ofRoot);
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
    const { spec, root } = this.lineage(symbol);
    const [before, last] = this.world.path(symbol).slice(-2) as [Session, Session];
    const isFirst = hours.day === last.day;
    const opening = this.moment(symbol, isFirst ? FEED_START : hours.open);
    const stir = isFirst ? stirOf(opening.price, before) : this.root(root).stir(hours.day);
    const strikes = new Map(
      expiriesAt(hours.day, spec).map((expiry) => [expiry, strikesOf(spec, smileOf(spec, opening, expiry))]),
    );
    const openInterest = new Map(
      quotesAt(spec, opening, stir, 1).map((quote) => [contractOf(quote), quote.openInterest]),
    );
    const told = new Map<string, number>();
    for (let quarter = 0; isFirst && quarter <= LAST_QUARTER; quarter++) {
      const moment = momentOf(last, before, quarter);
      const volumes = volumesOf(spec, moment, stirOf(moment.price, before), (quarter + 1) / QUARTERS);
      for (const [contract, volume] of volumes) told.set(contract, Math.max(volume, told.get(contract) ?? 0));
    }
    const playing = { hours, opening, stir, strikes, openInterest, told, isFirst };
    this.playing.set(symbol, playing);
    return playing;
  }

  /** The bare chain: price, vol and spreads, without what depends on trades. */
  private quotes(symbol: string, at: number): Quote[] {
    const { stir, strikes } = this.session(symbol, at);
    const renew = (random: Random, hash: number, strike: number, sign: 1 | -1) => {
      const own = uniformAt(hash, strike * 10_000, 7 * sign);
      const turn = Math.floor(at / (RENEWED_AFTER_MS.least + RENEWED_AFTER_MS.spread * own) + 1000 * own);
      random.restart(hash, strike * 10_000 + sign, turn);
    };
    return quotesAt(this.lineage(symbol).spec, this.moment(symbol, at), stir, 1, { strikes, renew });
  }

  /** Contracts traded since the session began, by contract. */
  private volumes(symbol: string, at: number): Map<string, number> {
    const { hours, opening, stir, strikes, told, isFirst } = this.session(symbol, at);
    // The last quarter of the world's last session comes after what its last snapshot counts.
    const ofSession = isFirst
      ? ((at - hours.open) / QUARTER_MS + 1) / QUARTERS
      : (at - hours.open) / (hours.close - hours.open);
    const volumes = volumesOf(this.lineage(symbol).spec, opening, stir, ofSession, { strikes });
    for (const [contract, before] of told) {
      if (before > (volumes.get(contract) ?? 0)) volumes.set(contract, before);
    }
    return volumes;
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
    const { openInterest } = this.session(symbol, at);
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
        openInterest: openInterest.get(contract) ?? 0,
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

import type { Side } from '../contracts/contract';
import { isSameExpiry, type ExpiryId } from '../contracts';
import type { ParityForward } from '../implied';
import { brokenForwards, commonYield, knownYields, type JudgedForward, type KnownYield } from '../quality';
import { rateAt } from '../rates';
import { expiryInstant, MILLISECONDS_PER_DAY, yearsBetween } from '../time';
import { expiryTerms, isEarly, isExercised } from './american';
import { carryForward, forwardByParity } from './forward';
import { writtenOn } from './snapshot';
import type { FoundForward, MarketTerms, PastSession, SideQuotes, SliceQuotes, SliceTime, Snapshot } from './types';

/** The time, the rate and the carry of an expiry. */
export function sliceTime(slice: SliceQuotes, snapshot: Snapshot, terms: MarketTerms): SliceTime {
  const expiryAt = expiryInstant(terms.calendar, slice.expiry, slice.settlement);
  const years = yearsBetween(snapshot.asof, expiryAt);
  const days = (expiryAt - snapshot.asof) / MILLISECONDS_PER_DAY;
  const rate = rateAt(terms.rates, days);
  const carry = carryForward(snapshot, terms, expiryAt, rate);
  return { slice, years, days, rate, discount: Math.exp(-rate * years), carry };
}

/** The expiry of the session before. */
export function pastOf<T extends ExpiryId>(
  slice: ExpiryId,
  past: { readonly expiries: readonly T[] } | null | undefined,
): T | undefined {
  return past?.expiries.find((one) => isSameExpiry(one, slice));
}

/** Parity of an expiry without the quotes that are set aside. */
export function parityOf(
  time: SliceTime,
  snapshot: Snapshot,
  terms: MarketTerms,
  isAside: (side: Side, strike: number) => boolean,
): ParityForward | null {
  const { slice } = time;
  const without = (side: Side): SideQuotes => {
    const quotes = slice[side];
    if (!slice.strike.some((level) => isAside(side, level))) return quotes;
    return { ...quotes, bid: quotes.bid.map((bid, i) => (isAside(side, slice.strike[i]!) ? NaN : bid)) };
  };
  return forwardByParity({ ...slice, call: without('call'), put: without('put') }, snapshot, terms, time);
}

/** The forwards of the expiries of a snapshot, seen together. */
export class Forwards {
  /** Whether the forward of each expiry cannot be meant. */
  readonly broken: readonly boolean[];
  private readonly common: { value: number; error: number };

  /** @param parities by expiry; null where parity has none */
  constructor(
    private readonly times: readonly SliceTime[],
    private readonly parities: readonly (ParityForward | null)[],
    private readonly snapshot: Snapshot,
    private readonly terms: MarketTerms,
    private readonly before: PastSession | null | undefined,
  ) {
    const past = pastYields(before, terms);
    const judged = times.map((_, i) => this.judged(i));
    this.broken = brokenForwards(judged, this.roughVol(), past);
    const known = knownYields(judged.filter((_, i) => !this.broken[i]));
    this.common = commonYield(known.length > 0 ? known : past);
  }

  /** The forward of an expiry: by parity, or by carry with the yield that the others imply. */
  at(i: number): FoundForward {
    const { carry, years } = this.times[i]!;
    const parity = this.parities[i]!;
    if (parity) return { forward: parity.forward, source: 'parity', uncertainty: parity.uncertainty };
    const forward = carry * Math.exp(this.common.value * years);
    return { forward, source: 'carry', uncertainty: forward * this.common.error * Math.max(years, 0) };
  }

  private judged(i: number): JudgedForward {
    const { slice, years, discount, carry } = this.times[i]!;
    const { price } = this.snapshot;
    const parity = this.parities[i];
    const past = pastOf(slice, this.before);
    const { kind, exercise, rates } = this.terms;
    const isFuture = kind === 'future';
    const isAmerican = exercise === 'american';
    // Without a rate nobody knows what holding costs.
    const isPriced = rates.days.length > 0;
    return {
      ...{ years, carry, forward: parity?.forward ?? NaN, uncertainty: parity?.uncertainty ?? NaN },
      sold: this.tradedForwards(i, 'call'),
      bought: this.tradedForwards(i, 'put'),
      // American contracts: F·D − K ≤ C − P ≤ F − K·D on a future, C − P ≤ S − K·D on what is held.
      mostCarry: !isPriced ? NaN : isFuture && !isAmerican ? price : price / discount,
      // Whoever owes the underlying may have to pay for it: nobody knows how much.
      leastCarry: isPriced && isFuture ? price : NaN,
      isKnown: isFuture,
      wasBroken: past ? past.expiryAside === 'broken-forward' : null,
    };
  }

  /**
   * Forwards at which the two sides of a strike can be traded against each other: K + (C − P)/D, of strikes at which neither is
   * about to be exercised.
   *
   * @param sold the side that is sold at its bid, while the other is bought at its ask
   */
  private tradedForwards(i: number, sold: Side): number[] {
    const { slice, years, rate, discount, carry } = this.times[i]!;
    const { strike, call, put } = slice;
    const on = writtenOn(this.snapshot, this.terms);
    const at = { years, rate, discount, forward: carry };
    const { spot } = expiryTerms(on, at);
    const isEarlyOn = { call: isEarly(on, at, 1), put: isEarly(on, at, -1) };
    const saysNothing = (side: Side, { bid, ask }: SideQuotes, n: number) =>
      isEarlyOn[side] &&
      isExercised(side === 'call' ? 1 : -1, spot, strike[n]!, 0.5 * (bid[n]! + ask[n]!), ask[n]! - bid[n]!);
    const found: number[] = [];
    for (let n = 0; n < strike.length; n++) {
      const [ofCall, ofPut] = sold === 'call' ? [call.bid[n]!, put.ask[n]!] : [call.ask[n]!, put.bid[n]!];
      if (!(ofCall > 0 && ofPut > 0) || saysNothing('call', call, n) || saysNothing('put', put, n)) continue;
      // A put that is sold may be exercised at any time: then its strike is paid at once.
      const owed = sold === 'put' && this.terms.exercise === 'american' ? strike[n]! * (1 / discount - 1) : 0;
      found.push(strike[n]! + owed + (ofCall - ofPut) / discount);
    }
    return found;
  }

  /** About the vol at the forward: the middle of what straddles at the money say, by 0.8·σ√T (common practice). */
  private roughVol(): number {
    const vols = this.times.flatMap(({ slice: { strike, call, put }, years, carry }) => {
      let nearest = 0;
      for (let i = 1; i < strike.length; i++) {
        if (Math.abs(strike[i]! - carry) < Math.abs(strike[nearest]! - carry)) nearest = i;
      }
      const straddle = 0.5 * (call.bid[nearest]! + call.ask[nearest]! + put.bid[nearest]! + put.ask[nearest]!);
      const vol = straddle / (0.8 * carry * Math.sqrt(years));
      return vol > 0 && Number.isFinite(vol) ? [vol] : [];
    });
    vols.sort((a, b) => a - b);
    return vols[vols.length >> 1] ?? 0;
  }
}

/** What the expiries of the session before said of the yield, those that were whole. */
function pastYields(before: PastSession | null | undefined, terms: MarketTerms): KnownYield[] {
  if (!before) return [];
  const { snapshot, expiries } = before;
  const whole = expiries.filter(({ forwardSource, expiryAside }) => forwardSource === 'parity' && expiryAside === null);
  return knownYields(
    whole.map(({ expiry, settlement, years, rate, forward, forwardUncertainty }) => ({
      ...{ years, forward, uncertainty: forwardUncertainty },
      carry: carryForward(snapshot, terms, expiryInstant(terms.calendar, expiry, settlement), rate),
    })),
  );
}

import { expiryTerms, type ExpiryFit } from '../chain';
import { isUnderlying, type ContractId, type OptionId } from '../contracts';
import { normalInverse } from '../distributions';
import { americanExpiry, DAYS_PER_YEAR, earlyExercise, lognormalUndiscounted, type AmericanExpiry } from '../models';
import { unmoved } from '../structures';
import { curveVol, levelledOff } from '../surface';
import type { MarketAt } from './market';

/** What changes the worth of a contract, in the order in which it is told. */
export const EXPLAINED_PARTS = ['price', 'time', 'events', 'level', 'skew', 'curvature', 'carry'] as const;
export type ExplainedPart = (typeof EXPLAINED_PARTS)[number];

/** An expiry that has ended: what its underlying was at then, and what it is at now. */
export interface Ended {
  readonly settledAt: number;
}

/** What one unit of a contract changed by between two moments, by its curves. */
export interface Explained {
  /** By revaluation; they sum to the change of theory. */
  readonly inTurn: Record<ExplainedPart, number>;
  /** The same by the Greeks of the first moment. */
  readonly byGreeks: Record<ExplainedPart, number>;
  /** What two of the changes do together, by the mixed Greeks: vanna, charm, veta. */
  readonly cross: number;
  /** What of the price is delta, and what is gamma, by the Greeks. */
  readonly delta: number;
  readonly gamma: number;
  /** Of what the curves say; NaN where one of the moments has none. */
  readonly change: number;
}

/** Each change after the ones before it, or averaged over all orders (L. Shapley, "A value for n-person games", 1953). */
export type ExplainedMethod = 'turn' | 'averaged';

const none = (): Record<ExplainedPart, number> => ({
  ...{ price: 0, time: 0, events: 0, level: 0, skew: 0, curvature: 0, carry: 0 },
});

/** Deviations of a 25-delta strike, about. */
const WING = normalInverse(0.75);
const POINTS = 100;
/** How far boundaries are interpolated beyond the vols that there are, as shares of them; as narrow a range wants but three. */
const UNDER = 0.98;
const OVER = 1.02;
const NARROW = 1.3;

/** How a price leads to a forward, and what of it is discounted. */
interface Carry {
  readonly rate: number;
  /** Cash that leaves the price, by years from the first moment. */
  readonly dividends: readonly { readonly years: number; readonly amount: number }[];
  /** A year, beside that cash; of a future what its forward is over its price. */
  readonly drift: number;
  readonly isFuture: boolean;
}

/** What a contract is worth as changes are made one by one: each of them a bit. */
class Changes {
  private readonly expiries = new Map<string, AmericanExpiry>();
  private readonly known = new Map<number, number>();
  private readonly sign: number;
  private readonly years: readonly [number, number];
  /** With what the price has paid between: as it would be without. */
  private readonly prices: readonly [number, number];
  private readonly paid: number;
  private readonly carries: readonly [Carry, Carry];
  /** Vols that are added to one another. */
  readonly vol: {
    readonly first: number;
    readonly events: number;
    readonly level: number;
    readonly skew: number;
    readonly curvature: number;
  };
  private readonly isAmerican: boolean;
  /** Between which vols boundaries are interpolated, and of how many. */
  private readonly vols: { readonly range: readonly [number, number]; readonly count: number };

  constructor(
    private readonly contract: OptionId,
    from: MarketAt,
    to: MarketAt | Ended,
    fits: { readonly from: ExpiryFit; readonly to: ExpiryFit | null },
  ) {
    const { around } = from.market;
    this.sign = contract.side === 'call' ? 1 : -1;
    this.isAmerican = around.on.exercise === 'american';
    const left = fits.to?.years ?? 0;
    const elapsed = fits.from.years - left;
    this.years = [fits.from.years, left];
    const isFuture = around.on.kind === 'future';
    const passed = isFuture ? [] : around.dividends.filter(({ years }) => years > 0 && years <= elapsed);
    this.paid = passed.reduce((sum, { amount }) => sum + amount, 0);
    const price = 'settledAt' in to ? to.settledAt : to.market.around.spot;
    this.prices = [around.spot, price + this.paid];
    const first = carryOf(from, fits.from, 0);
    this.carries = [first, fits.to && !('settledAt' in to) ? carryOf(to, fits.to, elapsed) : first];
    this.vol = this.volChanges(from, fits, elapsed);
    this.vols = volsOf(this.vol);
  }

  /** How the vol of the strike has become what it is: announcements that have passed, the level, the lean, and the rest of the shape. */
  private volChanges(
    from: MarketAt,
    { from: first, to: last }: { from: ExpiryFit; to: ExpiryFit | null },
    elapsed: number,
  ) {
    const { strike } = this.contract;
    const volFrom = (level: number) => curveVol(first.curve!, Math.log(level / first.forward));
    const own = volFrom(strike);
    if (!last?.curve) return { first: own, events: 0, level: 0, skew: 0, curvature: 0 };
    const expiry = from.expiry(this.contract)!;
    const { eventScale } = expiry.moment({ ...unmoved(from.market.around.spot), elapsed });
    const { curve, forward, atmVol, years } = last;
    const changeAt = (level: number) => curveVol(curve, Math.log(level / forward)) - eventScale * volFrom(level);
    const level = changeAt(forward);
    const deviation = atmVol * Math.sqrt(years);
    const lean = changeAt(forward * Math.exp(WING * deviation)) - changeAt(forward * Math.exp(-WING * deviation));
    const skew = (0.5 * lean * levelledOff(Math.log(strike / forward) / deviation)) / levelledOff(WING);
    return {
      first: own,
      events: (eventScale - 1) * own,
      level,
      skew,
      curvature: changeAt(strike) - level - skew,
    };
  }

  /** @param made which changes have been made, a bit each in the order of {@link EXPLAINED_PARTS} */
  value(made: number): number {
    const known = this.known.get(made);
    if (known !== undefined) return known;
    const found = this.revalued(made);
    this.known.set(made, found);
    return found;
  }

  private revalued(made: number): number {
    const has = (part: ExplainedPart) => (made >> EXPLAINED_PARTS.indexOf(part)) & 1;
    const { strike } = this.contract;
    const { sign } = this;
    const left = this.years[has('time')]!;
    const withCash = this.prices[has('price')]!;
    const carry = this.carries[has('carry')]!;
    const { spot, forward } = this.forwardAt(withCash, carry, has('time'), has('carry'));
    if (!(left > 0)) return Math.max(0, sign * (spot - strike));
    const { vol } = this;
    const sigma =
      vol.first +
      has('events') * vol.events +
      has('level') * vol.level +
      has('skew') * vol.skew +
      has('curvature') * vol.curvature;
    const discount = Math.exp(-carry.rate * left);
    if (this.isAmerican) {
      const traded = carry.isFuture ? forward : spot;
      const carryYield = carry.rate - Math.log(forward / traded) / left;
      if (earlyExercise(sign, carry.rate, carryYield, left) !== 'never') {
        const expiry = this.expiryAt(carry.rate, carryYield, left);
        return traded * expiry.price(sign, strike / traded, sigma);
      }
    }
    return discount * lognormalUndiscounted(sign, forward, strike, sigma * Math.sqrt(left));
  }

  /** The price and the forward: cash that was paid between is still owed until the carry has changed. */
  private forwardAt(
    withCash: number,
    { rate, dividends, drift, isFuture }: Carry,
    isLater: number,
    isChanged: number,
  ): { spot: number; forward: number } {
    if (isFuture) return { spot: withCash, forward: withCash * drift };
    const [years, last] = this.years;
    const now = isLater ? years - last : 0;
    const spot = isChanged ? withCash - this.paid : withCash;
    const owed = dividends.reduce(
      (sum, { years: at, amount }) => sum + amount * Math.exp(-rate * Math.max(0, at - now)),
      0,
    );
    return { spot, forward: Math.max(spot - owed, 1e-12) * Math.exp(drift * this.years[isLater]!) };
  }

  private expiryAt(rate: number, carryYield: number, left: number): AmericanExpiry {
    const key = `${rate} ${carryYield} ${left}`;
    const found =
      this.expiries.get(key) ??
      americanExpiry({ spot: 1, years: left, rate, yield: carryYield }, ...this.vols.range, this.vols.count);
    this.expiries.set(key, found);
    return found;
  }

  /** The forward of the last moment by the carry of the first. */
  get carried(): number {
    return this.forwardAt(this.prices[1], this.carries[0], 1, 0).forward;
  }

  get move(): number {
    return this.prices[1] - this.prices[0];
  }

  get elapsed(): number {
    return this.years[0] - this.years[1];
  }
}

/** All vols that some changes can make of one lie between these. */
function volsOf({ first, ...changes }: Changes['vol']): { range: readonly [number, number]; count: number } {
  let [low, high] = [first, first];
  for (const change of Object.values(changes)) {
    if (change < 0) low += change;
    else high += change;
  }
  const range = [UNDER * Math.max(low, 0.1 * first), OVER * high] as const;
  return { range, count: range[1] < NARROW * range[0] ? 3 : 5 };
}

/** How the price of a market leads to the forward of an expiry. @param elapsed years from the first moment to that of the market */
function carryOf({ market: { around } }: MarketAt, fit: ExpiryFit, elapsed: number): Carry {
  const { on, spot } = around;
  const { rate, forward, years } = fit;
  if (on.kind === 'future') return { rate, dividends: [], drift: forward / spot, isFuture: true };
  const coming = around.dividends.filter((one) => one.years > 0 && one.years < years);
  const owed = coming.reduce((sum, { years: at, amount }) => sum + amount * Math.exp(-rate * at), 0);
  const isPaid = spot - owed > 0;
  return {
    rate,
    dividends: isPaid ? coming.map(({ years: at, amount }) => ({ years: at + elapsed, amount })) : [],
    drift: Math.log(forward / (isPaid ? spot - owed : spot)) / years,
    isFuture: false,
  };
}

/** Each change after the ones before it. */
function inTurnOf(changes: Changes): Record<ExplainedPart, number> {
  const out = none();
  let made = 0;
  let before = changes.value(0);
  EXPLAINED_PARTS.forEach((part, i) => {
    made |= 1 << i;
    const after = changes.value(made);
    out[part] = after - before;
    before = after;
  });
  return out;
}

/** What each change brings on average over all orders in which they can be made. */
function averagedOf(changes: Changes): Record<ExplainedPart, number> {
  const count = EXPLAINED_PARTS.length;
  // Orders in which so many come before it, as a share of all: k! (n − 1 − k)! / n!.
  const weights = Array.from({ length: count }, (_, k) => 1 / (count * binomial(count - 1, k)));
  const out = none();
  EXPLAINED_PARTS.forEach((part, i) => {
    const bit = 1 << i;
    for (let made = 0; made < 1 << count; made++) {
      if (made & bit) continue;
      out[part] += weights[bitsOf(made)]! * (changes.value(made | bit) - changes.value(made));
    }
  });
  return out;
}

function binomial(n: number, k: number): number {
  let out = 1;
  for (let i = 1; i <= k; i++) out = (out * (n - k + i)) / i;
  return out;
}

function bitsOf(made: number): number {
  let count = 0;
  for (let left = made; left > 0; left &= left - 1) count++;
  return count;
}

/**
 * What changed the worth of one unit of a contract between two moments, by its curves: the price, time as it passes evenly,
 * announcements that have passed with their variance, the level of vol at the forward, the lean (by the change of the 25-delta risk
 * reversal, levelling off in the wings), the rest of the curve's shape, and the carry with what was paid between. Vols stick to
 * strikes while the price moves.
 *
 * @param to the later moment, or what it settled at where it has ended
 * @returns null where one of the moments has no curve for it
 */
export function explainContract(
  contract: ContractId,
  from: MarketAt,
  to: MarketAt | Ended,
  method: ExplainedMethod = 'turn',
): Explained | null {
  if (isUnderlying(contract)) return 'settledAt' in to ? null : explainUnderlying(from, to);
  const first = from.expiry(contract);
  const last = 'settledAt' in to ? null : to.expiry(contract);
  const mark = from.mark(contract);
  if (!first || !mark || (!last && !('settledAt' in to))) return null;
  const changes = new Changes(contract, from, to, { from: first.fit, to: last?.fit ?? null });
  const inTurn = method === 'turn' ? inTurnOf(changes) : averagedOf(changes);
  const { vol } = changes;
  const days = changes.elapsed * DAYS_PER_YEAR;
  const { move } = changes;
  const { delta, gamma, theta, vega, volga, vanna, charm, veta } = mark;
  const points = POINTS * (vol.events + vol.level + vol.skew + vol.curvature);
  const level = POINTS * vol.level;
  const lastFit = last?.fit;
  // What the carry does to the forward moves a contract as its price would; the rate discounts it beside that.
  const carried =
    lastFit && !('settledAt' in to)
      ? delta * expiryTerms(from.market.around.on, first.fit).spot * Math.log(lastFit.forward / changes.carried) -
        mark.theory * (lastFit.rate - first.fit.rate) * lastFit.years
      : 0;
  return {
    inTurn,
    byGreeks: {
      price: delta * move + 0.5 * gamma * move * move,
      time: theta * days,
      events: vega * POINTS * vol.events,
      level: vega * level + 0.5 * volga * level * level,
      skew: vega * POINTS * vol.skew,
      curvature: vega * POINTS * vol.curvature,
      carry: carried,
    },
    cross: vanna * move * points + charm * move * days + veta * points * days,
    delta: delta * move,
    gamma: 0.5 * gamma * move * move,
    change: changes.value((1 << EXPLAINED_PARTS.length) - 1) - changes.value(0),
  };
}

/** The underlying itself: what was paid between is part of its move, and leaves it again with the carry. */
function explainUnderlying(from: MarketAt, to: MarketAt): Explained {
  const change = to.market.around.spot - from.market.around.spot;
  const parts = { ...none(), price: change };
  return { inTurn: parts, byGreeks: parts, cross: 0, delta: change, gamma: 0, change };
}

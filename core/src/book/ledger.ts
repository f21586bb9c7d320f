import Big from 'big.js';
import { isUnderlying, type ContractId, type OptionId } from '../contracts';

/** What was traded of a contract. Money and quantities are exact decimals. */
export interface BookFill {
  /** Milliseconds since 1970. */
  readonly time: number;
  readonly contract: ContractId;
  /** Bought is plus; of an option contracts, of the underlying its own units. */
  readonly quantity: Big;
  /** Of one unit of the underlying. */
  readonly price: Big;
  /** In money. */
  readonly fee: Big;
  /** Whether an option was exercised against its seller: no trade, and at a price of nothing. */
  readonly isAssigned?: boolean;
}

/** What changes the terms of contracts, or pays those who hold the underlying. */
export interface TermsChange {
  readonly symbol: string;
  /** From when on. */
  readonly time: number;
  /** Splits and special dividends change contracts (common practice); any cash is paid to who holds the underlying. */
  readonly kind: 'split' | 'special' | 'cash';
  /** New shares for an old one, or cash for a unit. */
  readonly amount: Big;
}

/** What is known of the markets that a position is in. */
export interface LedgerFacts {
  /** Money for one unit of price, of one contract or one unit of the underlying. */
  multiplierOf(contract: ContractId): Big;
  /** Of an underlying, in order of time. */
  changesOf(symbol: string): readonly TermsChange[];
  /** When an expiry ends. */
  endOf(contract: OptionId): number;
  /** The price that an expiry has settled at; null where it is not known. */
  settledAt(contract: OptionId): Big | null;
}

/** What was bought or sold at one price and is still held. */
export interface Lot {
  readonly time: number;
  readonly quantity: Big;
  readonly price: Big;
}

/** A contract that a position has held, and may hold still. */
export interface LedgerLeg {
  /** Numbers that it has had since its first trade; several where a change of terms has made one of two contracts. */
  readonly ids: readonly number[];
  /** In the terms of the moment. */
  readonly contract: ContractId;
  readonly multiplier: Big;
  /** What is still held, the oldest first. */
  readonly lots: readonly Lot[];
  readonly quantity: Big;
  /** What its lots cost: negative for what was sold. */
  readonly cost: Big;
  /** All money that it brought less what it took, fees among it. */
  readonly flowed: Big;
  /** It has ended, and nobody has said at what price. */
  readonly isAwaiting: boolean;
}

/** How something held came to its end. */
export type ClosedBy = 'trade' | 'expiry' | 'assignment';

/** A part of a lot that is held no more. */
export interface Closing {
  readonly time: number;
  readonly contract: ContractId;
  /** As it was held. */
  readonly quantity: Big;
  readonly entry: Big;
  readonly exit: Big;
  readonly profit: Big;
  readonly by: ClosedBy;
}

/** Money that came in at a moment, or went out. */
export interface Flow {
  readonly time: number;
  readonly amount: Big;
  readonly kind: 'trade' | 'fee' | 'settlement' | 'dividend';
}

/** What a position is after all that happened to it. */
export interface PositionState {
  /** In the order in which they were first traded. */
  readonly legs: readonly LedgerLeg[];
  readonly closings: readonly Closing[];
  /** In order of time. */
  readonly flows: readonly Flow[];
  /** What closings brought, without fees. */
  readonly realized: Big;
  readonly fees: Big;
  /** Dividends of the underlying while it was held. */
  readonly income: Big;
  /** When it was begun, and when the last of it was closed; null while it is not. */
  readonly opened: number | null;
  readonly closed: number | null;
}

const ZERO = new Big(0);
const sum = (values: readonly Big[]): Big => values.reduce((total, value) => total.plus(value), ZERO);

/** A name of a contract that is the same for the same contract alone. */
export function contractKey(contract: ContractId): string {
  if (isUnderlying(contract)) return contract.symbol;
  const { symbol, expiry, settlement, strike, side } = contract;
  return `${symbol} ${expiry} ${settlement} ${strike} ${side}`;
}

/** Strikes have at most so many decimals. */
const STRIKE_DECIMALS = 6;
/** Prices that were divided. */
const PRICE_DECIMALS = 12;

interface Held {
  ids: number[];
  contract: ContractId;
  lots: Lot[];
  flowed: Big;
}

/** A position on its way through time. */
class Ledger {
  private held = new Map<string, Held>();
  readonly closings: Closing[] = [];
  readonly flows: Flow[] = [];
  private opened: number | null = null;
  private last: number | null = null;
  private nextId = 0;
  /** Before it nothing that is held ends. */
  private nextEnd = Infinity;

  constructor(private readonly facts: LedgerFacts) {}

  /** Ends what has expired by a moment and whose price is known. */
  settle(until: number): void {
    if (until < this.nextEnd) return;
    const ended = [...this.held.values()].flatMap(({ contract, lots }) => {
      if (isUnderlying(contract) || lots.length === 0) return [];
      const time = this.facts.endOf(contract);
      return time <= until ? [{ contract, lots, time }] : [];
    });
    for (const { contract, lots, time } of ended.sort((a, b) => a.time - b.time)) {
      const price = this.facts.settledAt(contract);
      if (price === null) continue;
      const inside = contract.side === 'call' ? price.minus(contract.strike) : new Big(contract.strike).minus(price);
      const paid = inside.gt(0) ? inside : ZERO;
      const quantity = sum(lots.map((lot) => lot.quantity));
      this.trade({ time, contract, quantity: quantity.neg(), price: paid, fee: ZERO }, 'expiry');
    }
  }

  /** Takes a trade: what is against what is held closes it, the oldest first. */
  trade(fill: BookFill, by: ClosedBy): void {
    const { time, contract, price, fee } = fill;
    const multiplier = this.facts.multiplierOf(contract);
    if (!isUnderlying(contract)) this.nextEnd = Math.min(this.nextEnd, this.facts.endOf(contract));
    const key = contractKey(contract);
    const held = this.held.get(key) ?? { ids: [this.nextId++], contract, lots: [], flowed: ZERO };
    this.held.set(key, held);
    let left = fill.quantity;
    const lots: Lot[] = [];
    for (const lot of held.lots) {
      if (left.eq(0) || left.s === lot.quantity.s) {
        lots.push(lot);
        continue;
      }
      const size = left.abs().lt(lot.quantity.abs()) ? left.neg() : lot.quantity;
      const profit = price.minus(lot.price).times(size).times(multiplier);
      this.closings.push({ time, contract, quantity: size, entry: lot.price, exit: price, profit, by });
      left = left.plus(size);
      const rest = lot.quantity.minus(size);
      if (!rest.eq(0)) lots.push({ ...lot, quantity: rest });
    }
    if (!left.eq(0)) lots.push({ time, quantity: left, price });
    held.lots = lots;
    this.pay(held, time, price.times(fill.quantity).times(multiplier).neg(), by === 'expiry' ? 'settlement' : 'trade');
    this.pay(held, time, fee.neg(), 'fee');
    this.opened ??= time;
    this.last = time;
  }

  private pay(held: Held, time: number, amount: Big, kind: Flow['kind']): void {
    if (amount.eq(0)) return;
    held.flowed = held.flowed.plus(amount);
    this.flows.push({ time, amount, kind });
  }

  /** Brings what is held into terms of after a change, and pays its cash. */
  change({ symbol, time, kind, amount }: TermsChange): void {
    if (kind === 'cash' && !this.held.has(symbol)) return;
    const before = this.held;
    this.held = new Map();
    for (const held of before.values()) {
      if (held.contract.symbol === symbol) {
        if (isUnderlying(held.contract) && kind !== 'split') {
          const units = sum(held.lots.map(({ quantity }) => quantity));
          this.pay(held, time, units.times(amount).times(this.facts.multiplierOf(held.contract)), 'dividend');
        }
        if (kind !== 'cash') takeTerms(held, kind, amount);
      }
      const key = contractKey(held.contract);
      const there = this.held.get(key);
      if (!there) {
        this.held.set(key, held);
        continue;
      }
      there.ids.push(...held.ids);
      there.lots = [...there.lots, ...held.lots].sort((a, b) => a.time - b.time);
      there.flowed = there.flowed.plus(held.flowed);
    }
  }

  stateAt(until: number): PositionState {
    const legs = [...this.held.values()].map(({ ids, contract, lots, flowed }): LedgerLeg => {
      const multiplier = this.facts.multiplierOf(contract);
      return {
        ...{ ids, contract, multiplier, lots, flowed },
        quantity: sum(lots.map(({ quantity }) => quantity)),
        cost: sum(lots.map(({ quantity, price }) => quantity.times(price))).times(multiplier),
        isAwaiting: lots.length > 0 && !isUnderlying(contract) && this.facts.endOf(contract) <= until,
      };
    });
    const paid = (kind: Flow['kind']) =>
      sum(this.flows.filter((flow) => flow.kind === kind).map((flow) => flow.amount));
    return {
      legs,
      closings: this.closings,
      flows: this.flows,
      realized: sum(this.closings.map(({ profit }) => profit)),
      fees: paid('fee').neg(),
      income: paid('dividend'),
      opened: this.opened,
      closed: legs.every(({ lots }) => lots.length === 0) ? this.last : null,
    };
  }
}

/** Brings what is held of a contract into the terms of after a split or a special dividend. */
function takeTerms(held: Held, kind: 'split' | 'special', amount: Big): void {
  const { contract } = held;
  const strikeOf = (change: (strike: Big) => Big) =>
    isUnderlying(contract)
      ? contract
      : { ...contract, strike: Number(change(new Big(contract.strike)).round(STRIKE_DECIMALS)) };
  if (kind === 'special') {
    held.contract = strikeOf((strike) => strike.minus(amount));
    return;
  }
  held.contract = strikeOf((strike) => divided(strike, amount));
  held.lots = held.lots.map((lot) => ({
    ...lot,
    quantity: lot.quantity.times(amount),
    price: divided(lot.price, amount),
  }));
}

/** Big.js divides to a fixed number of decimals, of its class. */
const Divisible = Big();
Divisible.DP = PRICE_DECIMALS;
const divided = (value: Big, by: Big): Big => new Big(new Divisible(value).div(by));

/**
 * What a position is at a moment: its fills, what its expiries settled at, and what changed its terms, in order of time. Closed is
 * the oldest first. All options end in cash: exercised shares would be worth the same.
 *
 * @param fills in any order; those of one moment keep theirs
 * @param until a moment; what is later is not known yet
 */
export function positionAt(fills: readonly BookFill[], facts: LedgerFacts, until: number): PositionState {
  const ledger = new Ledger(facts);
  const symbols = new Set(fills.map(({ contract }) => contract.symbol));
  const first = fills.reduce((least, { time }) => Math.min(least, time), Infinity);
  // What changes terms does so before the first trade of its moment.
  const happened = [
    ...[...symbols].flatMap((symbol) =>
      facts
        .changesOf(symbol)
        .flatMap((change) => (change.time > first ? [{ time: change.time, rank: 0, change }] : [])),
    ),
    ...fills.map((fill) => ({ time: fill.time, rank: 1, fill })),
  ]
    .filter(({ time }) => time <= until)
    .sort((a, b) => a.time - b.time || a.rank - b.rank);
  for (const one of happened) {
    ledger.settle(one.time);
    if ('change' in one) ledger.change(one.change);
    else ledger.trade(one.fill, one.fill.isAssigned ? 'assignment' : 'trade');
  }
  ledger.settle(until);
  return ledger.stateAt(until);
}

/** The money of flows up to a moment: what came in less what went out. */
export function cashOf(flows: readonly Flow[]): Big {
  return sum(flows.map(({ amount }) => amount));
}

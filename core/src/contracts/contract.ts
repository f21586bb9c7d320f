/** Whether an expiry is settled by the prices of its day's opening (`am`) or of its close (`pm`). */
export type Settlement = 'am' | 'pm';
export const SETTLEMENTS = ['am', 'pm'] as const satisfies readonly Settlement[];

export type Side = 'call' | 'put';

/** An expiry: two series of one day that settle differently are two. */
export interface ExpiryId {
  /** Day in the zone of the exchange, as an ISO date. */
  readonly expiry: string;
  readonly settlement: Settlement;
}

/** A call or a put. */
export interface OptionId extends ExpiryId {
  /** Symbol of the underlying. */
  readonly symbol: string;
  readonly strike: number;
  readonly side: Side;
}

/** The underlying itself, which is a contract too. */
export interface UnderlyingId {
  readonly symbol: string;
  readonly underlying: true;
}

/** What can be held: an option, or the underlying itself. */
export type ContractId = OptionId | UnderlyingId;

/** A contract with a signed quantity: bought is plus. */
export type Leg<Contract extends ContractId = ContractId> = Contract & { readonly quantity: number };

/** A leg of which it may be left unsaid how its expiry settles. */
export type NamedLeg = Omit<Leg<OptionId>, keyof ExpiryId> & NamedExpiry;

/** Whether a contract is the underlying itself. */
export function isUnderlying(contract: ContractId): contract is UnderlyingId {
  return 'underlying' in contract;
}

export function isSameExpiry(one: ExpiryId, other: ExpiryId): boolean {
  return one.expiry === other.expiry && one.settlement === other.settlement;
}

export function isSameContract(one: ContractId, other: ContractId): boolean {
  if (one.symbol !== other.symbol) return false;
  if (isUnderlying(one) || isUnderlying(other)) return isUnderlying(one) && isUnderlying(other);
  return isSameExpiry(one, other) && one.strike === other.strike && one.side === other.side;
}

/**
 * The name of an expiry: its day, with `am` behind it where it settles in the morning.
 *
 * @example expiryName({ expiry: '2031-03-20', settlement: 'am' }) // '2031-03-20am'
 */
export function expiryName({ expiry, settlement }: ExpiryId): string {
  return settlement === 'am' ? `${expiry}am` : expiry;
}

/** What names an expiry, where it may be left unsaid how it settles. */
export interface NamedExpiry {
  readonly expiry: string;
  /** Null: pm, or the only series of that day. */
  readonly settlement: Settlement | null;
}

const NAME = /^(\d{4}-\d\d-\d\d)(am|pm)?$/;

/**
 * What the name of an expiry says; null for what is none.
 *
 * @example parseExpiryName('2031-03-20am').settlement // 'am'
 */
export function parseExpiryName(name: string): NamedExpiry | null {
  const [, expiry, settlement] = NAME.exec(name) ?? [];
  if (expiry === undefined) return null;
  return { expiry, settlement: SETTLEMENTS.find((one) => one === settlement) ?? null };
}

/** The expiry that {@link expiryName} has named; null for what is none. */
export function namedExpiry(name: string): ExpiryId | null {
  const named = parseExpiryName(name);
  return named && { expiry: named.expiry, settlement: named.settlement ?? 'pm' };
}

/**
 * The expiry that is meant among some; where it is not said how it settles the one that settles pm, or the only one of that day.
 *
 * @returns its position; −1 where it is not among them
 */
export function expiryAt(expiries: readonly ExpiryId[], { expiry, settlement }: NamedExpiry): number {
  const at = expiries.findIndex((one) => isSameExpiry(one, { expiry, settlement: settlement ?? 'pm' }));
  if (at >= 0 || settlement !== null) return at;
  return expiries.findIndex((one) => one.expiry === expiry);
}

import type { Side } from '../contracts';

/** Sign of a call in every batch: +1. */
export const CALL = 1;
/** Sign of a put in every batch: −1. */
export const PUT = -1;

/** Theta, charm, color and veta are per calendar day of a 365-day year. */
export const DAYS_PER_YEAR = 365;

/** In the order of the conventions; see docs/conventions.md for what each is for and what it takes. */
export const MODEL_IDS = [
  'black-scholes-merton',
  'black-76',
  'garman-kohlhagen',
  'bachelier',
  'american',
  'binomial',
] as const;
export type ModelId = (typeof MODEL_IDS)[number];
export const EXERCISES = ['european', 'american'] as const;
export type Exercise = (typeof EXERCISES)[number];

/** A cash dividend. */
export interface CashDividend {
  /** Years from now to its ex-date. */
  years: number;
  amount: number;
}

/** A contract on a spot with a yield, by its numbers. */
export interface SpotTerms {
  /** +1 call, −1 put. */
  sign: number;
  spot: number;
  strike: number;
  years: number;
  rate: number;
  yield: number;
}

/** One contract. `forward` for black-76 and bachelier, `spot` for the others. */
export interface Contract {
  model: ModelId;
  side: Side;
  /** For binomial, `american` unless given; the others have one of their own. */
  exercise?: Exercise | undefined;
  spot?: number | undefined;
  forward?: number | undefined;
  strike: number;
  years: number;
  rate: number;
  /** Dividend yield, or the foreign rate of garman-kohlhagen; zero unless given. */
  yield?: number | undefined;
  vol: number;
  /** For the models on spot but garman-kohlhagen; those up to and with now, and from expiry on, do not count. */
  dividends?: readonly CashDividend[] | undefined;
  /** Of the tree. */
  steps?: number | undefined;
}

/** Whether a model is written on the forward rather than the spot. */
export function isOnForward(model: ModelId): boolean {
  return model === 'black-76' || model === 'bachelier';
}

/** Whether a contract can be exercised before its expiry. */
export function exerciseOf({ model, exercise }: Pick<Contract, 'model' | 'exercise'>): Exercise {
  if (model === 'binomial') return exercise ?? 'american';
  return model === 'american' ? 'american' : 'european';
}

/** The price a contract is written on. */
export function underlyingOf({ model, spot, forward }: Pick<Contract, 'model' | 'spot' | 'forward'>): number {
  const price = isOnForward(model) ? forward : spot;
  if (price === undefined) throw new RangeError(`${model} needs ${isOnForward(model) ? 'forward' : 'spot'}`);
  return price;
}

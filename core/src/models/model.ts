/** Sign of a call in every batch: +1. */
export const CALL = 1;
/** Sign of a put in every batch: −1. */
export const PUT = -1;

export type Side = 'call' | 'put';

/** Theta, charm, color and veta are per calendar day of a 365-day year. */
export const DAYS_PER_YEAR = 365;

/** The European models that exist so far; the early-exercise models come with the pricing core. */
export const MODEL_IDS = ['black-scholes-merton', 'black-76', 'garman-kohlhagen', 'bachelier'] as const;
export type ModelId = (typeof MODEL_IDS)[number];

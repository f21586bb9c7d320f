import type { CashDividend } from './model';

/** What dividends are discounted by, and until when they count. */
interface Escrowed {
  dividends?: readonly CashDividend[] | undefined;
  years: number;
  rate: number;
}

/** The dividends of an option's life: those with 0 < t < expiry. */
export function dividendsOf({ dividends = [], years }: Escrowed): readonly CashDividend[] {
  return dividends.filter(({ years: at }) => at > 0 && at < years);
}

/** A dividend at a moment belongs to it, though a sum of steps that leads there is not exact. */
const MOMENT = 1e-9;

/**
 * Present value, at a moment, of the dividends from that moment on: by the escrowed rule what moves with the vol is the
 * spot less these.
 */
export function escrowOf(input: Escrowed): (from: number) => number {
  const paid = dividendsOf(input);
  const { rate } = input;
  return (from) =>
    paid.reduce(
      (sum, { years: at, amount }) => (at >= from - MOMENT ? sum + amount * Math.exp(-rate * (at - from)) : sum),
      0,
    );
}

/** By how much that present value falls as the rate rises by one: Σ t·D·e^(−rt). */
export function escrowDuration(input: Escrowed): number {
  return dividendsOf(input).reduce((sum, { years, amount }) => sum + years * amount * Math.exp(-input.rate * years), 0);
}

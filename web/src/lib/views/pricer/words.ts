import type { ModelId, MoveStep, Output, Side } from '@umwelt/core';
import { DAYS_PER_YEAR, isOnForward } from '@umwelt/core';
import { figures } from '$lib/formats';
import type { FieldName, Terms } from './terms';

/** Names and units of the fields. */
export const FIELD_LABELS: Record<FieldName, { label: string; unit?: string; step?: number; title?: string }> = {
  model: { label: 'Model' },
  exercise: { label: 'Exercise' },
  steps: { label: 'Steps', step: 100, title: 'of the tree; made odd' },
  spot: { label: 'Spot', step: 1 },
  forward: { label: 'Forward', step: 1 },
  strike: { label: 'Strike', step: 1 },
  valued: { label: 'Valued at', title: 'in the zone of the exchange' },
  expires: { label: 'Expires at', title: 'in the zone of the exchange' },
  days: { label: 'Days', step: 1, title: 'calendar days to expiry, fractions included' },
  vol: { label: 'Vol', unit: '%', step: 1 },
  rate: { label: 'Rate', unit: '%', step: 0.25 },
  yield: { label: 'Yield', unit: '%', step: 0.25, title: 'dividends and borrow, as the forward implies them' },
  dividends: { label: 'Dividends', title: 'cash, as days: amount, like 40: 1.20, 131: 1.20; beside the yield' },
  multiplier: { label: 'Multiplier', step: 1 },
  quantity: { label: 'Quantity', step: 1, title: 'contracts; less than 0 is sold' },
};

export const MODEL_NAMES: Record<ModelId, string> = {
  'black-scholes-merton': 'Black–Scholes–Merton',
  'black-76': 'Black 76',
  'garman-kohlhagen': 'Garman–Kohlhagen',
  bachelier: 'Bachelier',
  american: 'American',
  binomial: 'Binomial tree',
};

/** What can be changed: an input, or the dividends by their sum. */
type Moved = MoveStep['input'];

/** The name of an input for a model. */
export function inputName(input: Moved, model: ModelId): string {
  if (input === 'price') return isOnForward(model) ? 'forward' : 'spot';
  if (input === 'years') return 'days';
  return input === 'yield' && model === 'garman-kohlhagen' ? 'foreign rate' : input;
}

/** Value of an input as it is read: days, percent, prices. */
export function inputText(input: Moved, value: number, decimals: number): string {
  if (input === 'years') return figures.fixed(DAYS_PER_YEAR * value, 2);
  if (input === 'vol') return `${figures.vol(value, 2)} %`;
  if (input === 'rate' || input === 'yield') return figures.percent(value, 3);
  return figures.fixed(value, Math.max(2, decimals));
}

/** A change of an input, with its sign. */
export function inputChange(input: Moved, change: number, decimals: number): string {
  if (input === 'years') return figures.signed(DAYS_PER_YEAR * change, 2);
  if (input === 'vol' || input === 'rate' || input === 'yield') return `${figures.signed(100 * change, 2)} pts`;
  return figures.signed(change, Math.max(2, decimals));
}

export const OUTPUT_NAMES: Record<Output, string> = {
  price: 'price',
  timeValue: 'time value',
  delta: 'delta',
  gamma: 'gamma',
  theta: 'theta',
  vega: 'vega',
  rho: 'rho',
  vanna: 'vanna',
  volga: 'volga',
  charm: 'charm',
  speed: 'speed',
  color: 'color',
  veta: 'veta',
  zomma: 'zomma',
  itm: 'in-the-money odds',
  breakEvenOdds: 'break-even odds',
  touch: 'touch odds',
  earlyPremium: 'early-exercise premium',
  volPerDay: 'vol points a day',
};

/** Whether an output is money, which counts by the contract and the position. */
export function isMoney(output: Output): boolean {
  return !['itm', 'breakEvenOdds', 'touch', 'volPerDay'].includes(output);
}

/** What an output is multiplied by to be read: money by the unit of the screen, odds to per cent. */
export function outputScale(output: Output, factor: number): number {
  if (isMoney(output)) return factor;
  return output === 'volPerDay' ? 1 : 100;
}

/** Decimals that money of a contract is written with: two more than the tick has, four at least. */
export function moneyDecimals(decimals: number): number {
  return Math.max(4, decimals + 2);
}

/** How much of a price is time value. */
function timeWords(share: number): string {
  if (!(share >= 0)) return 'less than exercising it now';
  if (share > 0.9995) return 'all of it time';
  return share < 0.0005 ? 'none of it time' : `${figures.percent(share, 0)} of it time`;
}

/** One sentence that sums up the contract. */
export function pricerWords(
  terms: Terms,
  side: Side,
  reading: {
    price: number;
    timeValue: number;
    theta: number;
    itm: number;
    volPerDay: number;
  },
): string {
  const share = reading.price > 0 ? reading.timeValue / reading.price : NaN;
  const day = -reading.theta;
  const parts = [
    `The ${figures.strike(terms.strike)} ${side} is worth ${figures.significant(reading.price, 4)}, ${timeWords(share)}`,
  ];
  if (day > 0)
    parts.push(
      `a day takes ${figures.significant(day, 3)}, which ${figures.significant(reading.volPerDay, 2)} vol points give back`,
    );
  parts.push(`it ends in the money with ${figures.percent(reading.itm)}`);
  return `${parts.join('; ')}.`;
}

import { type Axis } from './params';

/** Moneyness axes as their buttons name them. */
export const AXIS_NAMES: Record<Axis, string> = {
  strike: 'strike',
  forward: '% fwd',
  log: 'ln',
  standardized: 'std',
  delta: 'delta',
};

/** Moneyness axes in full. */
export const AXIS_TITLES: Record<Axis, string> = {
  strike: 'strike',
  forward: 'strike, % of the forward',
  log: 'ln(K/F)',
  standardized: 'ln(K/F) ÷ σ√T',
  delta: 'delta of the call on the forward, %',
};

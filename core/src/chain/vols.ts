import { impliedAmericanVols, impliedVols, quoteReason, REASONS, type ReasonCode } from '../implied';
import type { Aside } from '../quality';
import { americanOn, isEarly } from './american';
import type { ExpiryFit, SideQuotes, SideVols, WrittenOn } from './types';

const EXPIRED: ReasonCode = REASONS.indexOf('expired');
const NO_FORWARD: ReasonCode = REASONS.indexOf('no-forward');
const BELOW: ReasonCode = REASONS.indexOf('below-intrinsic');
const ABOVE: ReasonCode = REASONS.indexOf('above-maximum');

/** What vols are solved by: the forward of the expiry, and what is set aside. */
export type VolTerms = Pick<ExpiryFit, 'years' | 'forward' | 'rate' | 'discount' | 'aside'>;

/**
 * Implied vols of one side from bid, mid and ask: by the European formula on the forward, or by early exercise with the
 * yield that leads from the price to the forward.
 *
 * A contract that is set aside keeps its vols; its reason says so.
 *
 * @param sign +1 calls, −1 puts
 */
export function impliedColumns(
  strike: Float64Array,
  quotes: SideQuotes,
  fit: VolTerms,
  sign: number,
  on: WrittenOn,
): SideVols {
  const count = strike.length;
  const column = () => new Float64Array(count);
  const [price, forward, years, signs] = [column(), column(), column(), column()];
  const [bid, mid, ask] = [quotes.bid, column(), quotes.ask];
  for (let i = 0; i < count; i++) mid[i] = 0.5 * (bid[i]! + ask[i]!);
  forward.fill(fit.forward);
  years.fill(fit.years);
  signs.fill(sign);
  const european = (quoted: Float64Array): Float64Array => {
    const out = column();
    for (let i = 0; i < count; i++) price[i] = quoted[i]! / fit.discount;
    impliedVols(forward, strike, years, price, signs, out, count);
    return out;
  };
  const vols = { bid: european(bid), mid: european(mid), ask: european(ask), reason: new Uint8Array(count) };
  if (isEarly(on, fit, sign)) {
    impliedAmericanVols(americanOn(on, fit, vols.mid), sign, strike, { bid, mid, ask }, vols);
  }
  for (let i = 0; i < count; i++) {
    vols.reason[i] = reasonOf(fit, bid[i]!, ask[i]!);
    if (vols.reason[i] === 0 && !Number.isFinite(vols.mid[i]!)) {
      const isOver = mid[i]! / fit.discount >= (sign > 0 ? fit.forward : strike[i]!);
      vols.reason[i] = isOver ? ABOVE : BELOW;
    }
    if (vols.reason[i] !== 0) vols.bid[i] = vols.mid[i] = vols.ask[i] = NaN;
  }
  markAside(strike, vols.reason, fit.aside, sign);
  return vols;
}

function reasonOf(fit: VolTerms, bid: number, ask: number): ReasonCode {
  if (!(fit.years > 0)) return EXPIRED;
  return fit.forward > 0 ? quoteReason(bid, ask) : NO_FORWARD;
}

/** Writes the reasons of what is set aside, where nothing else is the matter. */
export function markAside(strike: Float64Array, reason: Uint8Array, aside: readonly Aside[], sign: number): void {
  for (const one of aside) {
    if ((one.side === 'call' ? 1 : -1) !== sign) continue;
    const at = strike.indexOf(one.strike);
    if (at >= 0 && reason[at] === 0) reason[at] = one.reason;
  }
}

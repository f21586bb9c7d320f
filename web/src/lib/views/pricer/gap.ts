import { DAYS_PER_YEAR, forwardOf, isOnForward, type Calendar, type Contract } from '@umwelt/core';
import { figures } from '$lib/formats';
import type { MarketEvent } from '$lib/data/api';
import { knownDividends } from '$lib/data/events';
import type { Focus } from '$lib/data/focus';
import type { Valued } from '$lib/data/valued';
import type { DataTable } from '$lib/tables/data-table';
import { numberColumns } from '$lib/tables/data-table';
import { contractOf, type Terms } from './terms';

/** One reason why theory and market may differ: the contract as it would be then. */
export interface Reason {
  name: string;
  /** What is put in the place of what. */
  detail: string;
  /** With this one thing done otherwise. */
  alone: Contract;
  /** With this and everything above it done otherwise: steps that add up. */
  inTurn: Contract;
}

/** The market of a contract and the reasons for its distance from theory. */
export interface Gap {
  theory: Contract;
  mid: number;
  /** In the order in which they are taken in turn; the vol comes last, since it explains what is left. */
  reasons: Reason[];
}

/** The contracts of a gap, in the order in which {@link gapTable} wants their prices. */
export function contractsOf({ theory, reasons }: Gap): Contract[] {
  return [theory, ...reasons.map(({ alone }) => alone), ...reasons.map(({ inTurn }) => inTurn)];
}

const SESSIONS_PER_YEAR = 252;

/**
 * The contract in focus as it is loaded, and what its price would be with one thing done otherwise.
 *
 * @returns null where the contract has no quote
 */
export function gapOf(
  shown: Valued,
  focus: Focus,
  terms: Terms,
  events: readonly MarketEvent[],
  calendar: Calendar,
): Gap | null {
  const slice = shown.snapshot.slices[focus.slice]!;
  const values = shown.values[focus.slice]!;
  const { fit } = slice;
  const quotes = slice[focus.side];
  const mid = 0.5 * (quotes.bid[focus.index]! + quotes.ask[focus.index]!);
  if (!(mid > 0)) return null;
  const theory = contractOf(terms, focus.side);
  const isCall = focus.side === 'call';
  const [own, other] = [values.callVols, values.putVols].map((vols) => vols.mid[focus.index]!);
  const [vol, otherVol] = isCall ? [own, other] : [other, own];
  const percent = (value: number) => `${figures.vol(value, 2)} %`;
  const reasons: Reason[] = [];
  const add = (name: string, detail: string, change: Partial<Contract>) => {
    const before = reasons.at(-1)?.inTurn ?? theory;
    reasons.push({ name, detail, alone: { ...theory, ...change }, inTurn: { ...before, ...change } });
  };
  const dividends = knownDividends(events, terms, calendar);
  const { rate, years } = theory;
  if (!isOnForward(terms.model) && shown.snapshot.kind !== 'future') {
    const carry = forwardOf({ ...theory, yield: 0, dividends });
    add('forward by carry', `${figures.fixed(carry, 2)} for ${figures.fixed(fit.forward, 2)} by ${fit.forwardSource}`, {
      yield: rate - Math.log(carry / terms.spot) / years,
    });
    if (dividends.length > 0 && terms.model !== 'garman-kohlhagen') {
      const cash = dividends.map(({ amount }) => figures.fixed(amount, 2)).join(' + ');
      add('dividends as cash', `${cash}, yield 0`, { yield: 0, dividends });
    }
  }
  if (fit.sessions > 0) {
    add(
      'days of sessions',
      `${figures.counted(fit.sessions, 'session')} ÷ ${SESSIONS_PER_YEAR} for ${figures.fixed(terms.days, 2)} days ÷ ${DAYS_PER_YEAR}`,
      { years: fit.sessions / SESSIONS_PER_YEAR },
    );
  }
  if (terms.model === 'american') add('no early exercise', 'European', { model: 'black-scholes-merton' });
  if (otherVol! > 0) {
    add(`the ${isCall ? 'put' : 'call'}'s vol`, `${percent(otherVol!)} at the same strike`, { vol: otherVol! });
  }
  if (vol! > 0) {
    add('its own vol', `${percent(vol!)} for ${percent(terms.vol)} of the ${shown.basis}`, { vol: vol! });
  }
  return { theory, mid, reasons };
}

/** Prices of a gap, of its {@link contractsOf}. What is left in turn is what the reasons do to each other. */
export function gapTable({ mid, reasons }: Gap, prices: readonly number[], factor: number): DataTable {
  const [theory = NaN, ...others] = prices;
  const inTurn = (i: number) => (i < 0 ? theory : others[reasons.length + i]!);
  return {
    columns: [
      { name: 'with', type: 'text' },
      { name: 'detail', type: 'text' },
      ...numberColumns(['price', 'explains', 'share_of_gap', 'in_turn']),
    ],
    rows: [
      ['theory', '', theory * factor, NaN, NaN, NaN],
      ...reasons.map(({ name, detail }, i) => [
        name,
        detail,
        others[i]! * factor,
        (others[i]! - theory) * factor,
        (others[i]! - theory) / (mid - theory),
        (inTurn(i) - inTurn(i - 1)) * factor,
      ]),
      ['left', '', NaN, NaN, NaN, (mid - inTurn(reasons.length - 1)) * factor],
      ['mid', '', mid * factor, (mid - theory) * factor, 1, (mid - theory) * factor],
    ],
  };
}

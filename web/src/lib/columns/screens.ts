import type { UnderlyingKind } from '@umwelt/core';
import { USUAL } from './universe';

/** A screen: columns and conditions by a name, in an order. */
export interface Screen {
  name: string;
  /** Keys of columns. */
  columns: readonly string[];
  filters: readonly string[];
  kinds: readonly UnderlyingKind[];
  families: readonly string[];
  /** A key of a column, with | rising behind it where it rises; blank for the usual order. */
  sort: string;
}

const shipped = (name: string, columns: readonly string[], filters: readonly string[], sort: string): Screen => ({
  ...{ name, columns: [...columns, USUAL], filters, sort },
  ...{ kinds: [], families: [] },
});

/** Screens that come with the application. */
export const SHIPPED_SCREENS: readonly Screen[] = [
  shipped('Rich against realized', [], ['iv30 / hv20.yz > 1.15'], 'iv30 / hv20.yz'),
  shipped(
    'Cheap and low-ranked',
    ['iv30 / hv60.yz'],
    ['rank(iv30, 252) < 20%', 'iv30 / hv60.yz < 1.1'],
    'rank(iv30, 252)|rising',
  ),
  shipped('Front end over the back', ['iv7 - iv90'], ['slope < -0.5%'], 'slope|rising'),
  shipped('Calls over puts', ['change(rr25, 20)'], ['rr25 > 0.5%'], 'rr25'),
  shipped(
    'Moved beyond what was expected',
    ['abs(change(price, 5)) / ago(move, 5)'],
    ['abs(change(price, 5)) > ago(move, 5)'],
    'abs(change(price, 5)) / ago(move, 5)',
  ),
  shipped('Options busier than usual', [], ['volume > 1.5 * avg(volume, 20)'], 'volume / avg(volume, 20)'),
];

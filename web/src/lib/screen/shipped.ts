/** A screen: formulas as columns and conditions by a name. */
export interface Screen {
  name: string;
  columns: readonly string[];
  filters: readonly string[];
}

/** Screens that come with the application. */
export const SHIPPED_SCREENS: readonly Screen[] = [
  {
    name: 'Rich against realized',
    columns: ['iv30 / hv20.yz', 'rank(iv30, 252)'],
    filters: ['iv30 / hv20.yz > 1.15'],
  },
  {
    name: 'Cheap and low-ranked',
    columns: ['rank(iv30, 252)', 'iv30 / hv60.yz'],
    filters: ['rank(iv30, 252) < 20%', 'iv30 / hv60.yz < 1.1'],
  },
  { name: 'Front end over the back', columns: ['slope', 'iv7 - iv90'], filters: ['slope < -0.5%'] },
  { name: 'Calls over puts', columns: ['rr25', 'change(rr25, 20)'], filters: ['rr25 > 0.5%'] },
  {
    name: 'Moved beyond what was expected',
    columns: ['abs(change(price, 5)) / ago(move, 5)'],
    filters: ['abs(change(price, 5)) > ago(move, 5)'],
  },
  {
    name: 'Options busier than usual',
    columns: ['volume / avg(volume, 20)', 'volume'],
    filters: ['volume > 1.5 * avg(volume, 20)'],
  },
];

import { checkFormula, unitWords } from '@umwelt/core';
import { figures } from '$lib/formats';
import { measureNamed } from './measures';

/** How a column is drawn, beyond what it says. */
export type ColumnLook =
  | 'plain'
  | 'strong'
  | 'implied'
  | 'realized'
  | 'change'
  | 'share'
  | 'term'
  | 'move'
  | 'event'
  | 'line'
  | 'text'
  | 'flags';

/** A column of the Universe. */
export interface ScreenColumn {
  /** A formula; with ~ before it, its line by session; or one of WORD_COLUMNS. */
  key: string;
  /** What is computed for it; null where nothing is. */
  formula: string | null;
  label: string;
  title: string;
  look: ColumnLook;
  width: number;
  /** How its values are read. */
  write: (value: number | null) => string;
  /** Whether a least and a most of it are typed in per cent; null where it has none. */
  limit: 'percent' | 'number' | null;
}

const LINE = '~';
/** Columns of words. */
const WORD_COLUMNS = ['kind', 'family', 'flags'] as const;
/** Stands for the usual columns. */
export const USUAL = '*';

const fine = (value: number | null) => figures.vol(value, 2);
const points = (value: number | null) => figures.vol(value);
const gap = (value: number | null) => figures.volChange(value);
const ratio = (value: number | null) => figures.fixed(value, 2);
const share = (value: number | null) => (value === null ? figures.NOTHING : figures.fixed(100 * value, 0));
const percent = (value: number | null) => figures.percent(value, 1);
const count = (value: number | null) => figures.count(value);
const days = (value: number | null) => figures.days(value);
const nothing = () => '';

type Known = [
  key: string,
  label: string,
  title: string,
  write: ScreenColumn['write'],
  width?: number,
  look?: ColumnLook,
  limit?: ScreenColumn['limit'],
];

const vols = (title: (days: number) => string) =>
  [7, 60, 90, 180, 360].map((at): Known => [`iv${at}`, `iv${at}`, title(at), points, 52]);

/** Columns that have a name of their own, in the order in which they are offered; most are formulas like any other. */
const KNOWN: readonly Known[] = [
  ['price', 'price', 'at the as-of', ratio, 74, 'plain', 'number'],
  ['price / before - 1', 'day %', 'from the close of the session before', percent, 62, 'change', 'percent'],
  ['~iv30', 'iv30, held', 'iv30 over the sessions held', nothing, 84, 'line', null],
  ['iv30', 'iv30', '30-day vol at the money, points', points, 72, 'implied'],
  ['rank(iv30, 252)', 'rank', 'of iv30: (now − low) ÷ (high − low) over 252 sessions', share, 46, 'share'],
  ['pct(iv30, 252)', 'pct', 'share of 252 sessions before whose iv30 was lower', share, 46, 'share'],
  ['hv20.yz', 'hv20', 'historical vol over 20 sessions, Yang–Zhang', points, 54, 'realized'],
  ['iv30 / hv20.yz', 'IV/HV', 'iv30 ÷ hv20', ratio, 56, 'strong', 'number'],
  ['iv30 - hv20.yz', 'gap', 'iv30 less hv20, points', gap, 54],
  ['slope', 'term', '90-day less 30-day vol, points', gap, 112, 'term'],
  ['rr25', 'RR 25', '25-delta call vol less put vol at 30 days, points', gap, 76],
  ['move', 'move, front', 'straddle at the forward of the first expiry', ratio, 124, 'move', 'number'],
  ['event', 'event', 'days to the next announcement', days, 48, 'event', 'number'],
  ['volume', 'opt. volume', 'options traded in the session', count, 72, 'plain', 'number'],
  [
    'volume / avg(volume, 20)',
    '× usual',
    'option volume over its average of 20 sessions',
    ratio,
    58,
    'plain',
    'number',
  ],
  ['putvolume / (volume - putvolume)', 'P/C vol.', 'puts traded for each call', ratio, 58, 'plain', 'number'],
  ['oi', 'open int.', 'options open', count, 78, 'plain', 'number'],
  ['quality', 'quality', 'of the quotes, from 0 to 100', (value) => figures.fixed(value, 0), 56, 'plain', 'number'],
  ['putoi / (oi - putoi)', 'P/C open', 'puts open for each call', ratio, 60, 'plain', 'number'],
  ['avg(volume, 20)', 'avg volume', 'option volume on average of 20 sessions', count, 78, 'plain', 'number'],
  ['iv30error', 'iv30 ±', 'one standard error of iv30, as far as the quotes tell, points', fine, 58],
  ['rr25error', 'RR 25 ±', 'one standard error of RR 25, points', fine, 62],
  ['moveerror', 'move ±', 'one standard error of the straddle of the first expiry', ratio, 62, 'plain', 'number'],
  ['low(iv30, 252)', 'iv30 low', 'lowest iv30 of 252 sessions', points, 58],
  ['high(iv30, 252)', 'iv30 high', 'highest iv30 of 252 sessions', points, 62],
  ['z(iv30, 252)', 'z', 'deviations of iv30 from its mean of 252 sessions', ratio, 50, 'plain', 'number'],
  ['change(iv30, 1)', 'iv30, day', 'iv30 less that of the session before, points', gap, 62],
  ['change(iv30, 5)', 'iv30, week', 'iv30 less that of five sessions ago, points', gap, 68],
  ['change(iv30, 20)', 'iv30, month', 'iv30 less that of 20 sessions ago, points', gap, 72],
  ...vols((at) => `${at}-day vol at the money, points`),
  ['index', 'index', 'variance index by the strip of options, 30 days', points, 54],
  ...[10, 30, 60, 90, 252].map((n): Known => [
    `hv${n}.yz`,
    `hv${n}`,
    `historical vol over ${n} sessions, Yang–Zhang`,
    points,
    56,
    'realized',
  ]),
  ['iv30 / hv60.yz', 'IV/HV 60', 'iv30 ÷ hv60', ratio, 66, 'strong', 'number'],
  ['bf25', 'BF 25', '25-delta wings over the middle at 30 days, points', gap, 56],
  ['rr10', 'RR 10', '10-delta call vol less put vol at 30 days, points', gap, 56],
  ['bf10', 'BF 10', '10-delta wings over the middle at 30 days, points', gap, 56],
  ['change(rr25, 20)', 'RR, month', 'RR 25 less that of 20 sessions ago, points', gap, 70],
  ['iv30 / sqrt(252)', 'daily', 'implied move of a day: iv30 ÷ √252', (value) => figures.percent(value, 2), 58],
  ['move / price', 'move %', 'straddle of the first expiry over the price', percent, 58, 'plain', 'percent'],
  ['deviation', 'deviation', 'one deviation to the first expiry', ratio, 72, 'plain', 'number'],
  [
    'abs(change(price, 5)) / ago(move, 5)',
    'week ÷ exp.',
    'move of five sessions over the straddle of the first expiry before them',
    ratio,
    78,
    'plain',
    'number',
  ],
  ['front', 'first exp.', 'days to the first expiry', days, 64, 'plain', 'number'],
  ['exdate', 'ex-date', 'days to the next dividend', days, 60, 'plain', 'number'],
  ['contracts', 'contracts', 'quoted', count, 70, 'plain', 'number'],
  ['usable', 'usable', 'contracts that can be used', count, 62, 'plain', 'number'],
  ['~price', 'price, held', 'price over the sessions held', nothing, 96, 'line', null],
  ['~hv20.yz', 'hv20, held', 'hv20 over the sessions held', nothing, 96, 'line', null],
  ['~iv30 / hv20.yz', 'IV/HV, held', 'iv30 ÷ hv20 over the sessions held', nothing, 96, 'line', null],
  ['kind', 'kind', 'of underlying', nothing, 64, 'text', null],
  ['family', 'family', 'related underlyings', nothing, 76, 'text', null],
  ['flags', 'flags', 'what stands out', nothing, 170, 'flags', null],
];

const isWord = (key: string) => (WORD_COLUMNS as readonly string[]).includes(key);

/** The formula of a column by its key; null where it has none. */
export function formulaOf(key: string): string | null {
  if (isWord(key) || key === USUAL) return null;
  return key.startsWith(LINE) ? key.slice(LINE.length).trim() : key;
}

function columnOf([key, label, title, write, width = 60, look = 'plain', limit = 'percent']: Known): ScreenColumn {
  const formula = formulaOf(key);
  return { key, formula, label, title, look, width, write, limit: formula === null || look === 'line' ? null : limit };
}

/** Columns that are offered by name. */
export const KNOWN_COLUMNS: readonly ScreenColumn[] = KNOWN.map(columnOf);
const BY_KEY = new Map(KNOWN_COLUMNS.map((column) => [column.key, column]));
const USUAL_COUNT = KNOWN.findIndex(([key]) => key === 'quality') + 1;
/** What the Universe shows unless told otherwise. */
export const USUAL_COLUMNS: readonly string[] = KNOWN.slice(0, USUAL_COUNT).map(([key]) => key);

/** A value of a formula as it is read, by its unit. */
export function valueText(unit: string, kind: 'truth' | 'number', value: number | null): string {
  if (value === null) return figures.NOTHING;
  if (kind === 'truth') return value === 1 ? 'yes' : 'no';
  if (unit === 'vol') return figures.vol(value);
  if (unit === 'count') return figures.count(Math.round(value));
  if (unit === 'day') return figures.days(value);
  return figures.fixed(value, 2);
}

const OWN_WIDTH = 96;

/** A column by its key; null where it makes no sense. */
export function columnNamed(key: string): ScreenColumn | null {
  const known = BY_KEY.get(key);
  if (known) return known;
  const isLine = key.startsWith(LINE);
  const formula = formulaOf(key) ?? '';
  try {
    const checked = checkFormula(formula, measureNamed);
    if (isLine && checked.kind === 'truth') return null;
    const unit = unitWords(checked.unit);
    const write = (value: number | null) => valueText(unit, checked.kind, value);
    const isLimited = !isLine && checked.kind === 'number';
    return {
      ...{ key, formula, label: formula, title: formula, width: OWN_WIDTH },
      look: isLine ? 'line' : 'strong',
      write: isLine ? nothing : write,
      limit: isLimited ? (unit === 'vol' ? 'percent' : 'number') : null,
    };
  } catch {
    return null;
  }
}

/** What stands out of an underlying: a word by a condition, which can be asked for alone. */
export interface Flag {
  word: string;
  formula: string;
  title: string;
}

export const FLAGS: readonly Flag[] = [
  { word: 'event', formula: 'event <= 10', title: 'an announcement within ten days' },
  { word: 'front bid', formula: 'slope < -0.5%', title: '30-day vol over 90-day vol: backwardation' },
  { word: 'call-rich', formula: 'rr25 > 0.5%', title: '25-delta calls over puts' },
  { word: 'rich', formula: 'iv30 / hv20.yz > 1.3', title: 'iv30 more than 30 % over hv20' },
  { word: 'cheap', formula: 'iv30 / hv20.yz < 0.9', title: 'iv30 more than 10 % under hv20' },
  { word: 'low', formula: 'rank(iv30, 252) < 10%', title: 'iv30 in the lowest tenth of its range' },
  { word: 'high', formula: 'rank(iv30, 252) > 90%', title: 'iv30 in the highest tenth of its range' },
  {
    word: 'breach',
    formula: 'abs(change(price, 5)) > ago(move, 5)',
    title: 'moved further in five sessions than its first expiry had expected',
  },
  { word: 'busy', formula: 'volume > 1.5 * avg(volume, 20)', title: 'options traded half as much again as usual' },
  { word: 'zero-day', formula: 'front < 1', title: 'an expiry today' },
  { word: 'thin', formula: 'quality < 60', title: 'quotes of low quality' },
];

/** A list of keys with the usual columns in place of their sign, each once; without what makes no sense. */
export function expandColumns(keys: readonly string[]): string[] {
  const all = keys.flatMap((key) => (key === USUAL ? USUAL_COLUMNS : [key]));
  return [...new Set(all)].filter((key) => columnNamed(key) !== null);
}

/** The list with the sign of the usual columns in place of them, where it ends with them all. */
export function shortColumns(keys: readonly string[]): string[] {
  const first = keys.length - USUAL_COLUMNS.length;
  const isUsual = first >= 0 && USUAL_COLUMNS.every((key, i) => keys[first + i] === key);
  return isUsual ? [...keys.slice(0, first), USUAL] : [...keys];
}

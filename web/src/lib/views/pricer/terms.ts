import {
  DAYS_PER_YEAR,
  DEFAULT_STEPS,
  exerciseOf,
  expiryInstant,
  expiryTerms,
  isOnForward,
  MODEL_IDS,
  MOST_STEPS,
  writtenOn,
  yearsBetween,
  type Calendar,
  type CashDividend,
  type Contract,
  type ModelId,
  type Side,
} from '@umwelt/core';
import { DateTime } from 'luxon';
import type { Focus } from '$lib/data/focus';
import type { Valued } from '$lib/data/valued';

/** Everything that can be typed. */
export const FIELD_NAMES = [
  'model',
  'exercise',
  'steps',
  'spot',
  'forward',
  'strike',
  'valued',
  'expires',
  'days',
  'vol',
  'rate',
  'yield',
  'dividends',
  'multiplier',
  'quantity',
] as const;
export type FieldName = (typeof FIELD_NAMES)[number];

/** Terms of a contract and of a position in it, as the fields hold them: decimals, instants in milliseconds. */
export interface Terms {
  model: ModelId;
  exercise: 'european' | 'american';
  steps: number;
  spot: number;
  forward: number;
  strike: number;
  valued: number;
  expires: number;
  /** To expiry, fractions included. */
  days: number;
  vol: number;
  rate: number;
  yield: number;
  dividends: readonly CashDividend[];
  multiplier: number;
  quantity: number;
}

/** The model that a kind of underlying is priced by unless another is chosen. */
export function usualModel({ kind, exercise }: Pick<Valued['snapshot'], 'kind' | 'exercise'>): ModelId {
  if (exercise === 'american') return 'american';
  if (kind === 'future') return 'black-76';
  return kind === 'fx' ? 'garman-kohlhagen' : 'black-scholes-merton';
}

/** The terms of the contract in focus under the basis in use. */
export function termsOfFocus(shown: Valued, focus: Focus, calendar: Calendar, multiplier: number): Terms {
  const { snapshot } = shown;
  const slice = snapshot.slices[focus.slice]!;
  const { fit } = slice;
  const { spot, years, rate, yield: carryYield } = expiryTerms(writtenOn(snapshot, snapshot), fit);
  return {
    model: usualModel(snapshot),
    exercise: snapshot.exercise,
    steps: DEFAULT_STEPS,
    spot,
    forward: fit.forward,
    strike: focus.strike,
    valued: snapshot.instant,
    expires: expiryInstant(calendar, slice.expiry, slice.settlement),
    days: years * DAYS_PER_YEAR,
    vol: volAt(shown, focus),
    rate,
    yield: carryYield,
    dividends: [],
    multiplier,
    quantity: 1,
  };
}

/** The vol of the contract under the basis; where it gives none, that of its expiry. */
function volAt({ snapshot, values }: Valued, { slice, side, index }: Focus): number {
  const vol = values[slice]![side].vol[index]!;
  return vol > 0 ? vol : snapshot.slices[slice]!.fit.atmVol;
}

/** The contract of terms, as one side of it. A vol of the normal model is in price units. */
export function contractOf(terms: Terms, side: Side): Contract {
  const { model, strike, rate, days, dividends } = terms;
  const base = { model, side, strike, years: days / DAYS_PER_YEAR, rate };
  if (isOnForward(model)) return { ...base, forward: terms.forward, vol: volOf(terms) };
  const onSpot = { ...base, spot: terms.spot, yield: terms.yield, vol: terms.vol };
  if (model === 'garman-kohlhagen') return onSpot;
  const withDividends = { ...onSpot, dividends };
  return model === 'binomial' ? { ...withDividends, exercise: terms.exercise, steps: terms.steps } : withDividends;
}

/** The fields hold a share of the price; the normal model takes it of the forward. */
function volOf({ model, vol, forward }: Terms): number {
  return model === 'bachelier' ? vol * Math.abs(forward) : vol;
}

/** The fields that a model has. */
export function fieldsOf(model: ModelId): FieldName[] {
  const held = isOnForward(model);
  const out = new Set<FieldName>();
  if (held) for (const name of ['spot', 'yield', 'dividends'] as const) out.add(name);
  else out.add('forward');
  if (model === 'garman-kohlhagen') out.add('dividends');
  if (model !== 'binomial') for (const name of ['steps', 'exercise'] as const) out.add(name);
  return FIELD_NAMES.filter((name) => !out.has(name));
}

/** A typed value, or what is wrong with it. */
export type Read<T> = { value: T } | { problem: string };

const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;

/** A number as it is typed, true minus, thin spaces and per cent signs allowed; NaN for what is none. */
export function readNumber(text: string): number {
  const plain = text
    .trim()
    .replace(/[\u2009\s%]/g, '')
    .replace('\u2212', '-');
  return NUMBER.test(plain) ? Number(plain) : NaN;
}

const within = (value: number, low: number, high: number, words: string): Read<number> =>
  value >= low && value <= high ? { value } : { problem: words };

/** Limits beyond which a number is taken for a typing error. */
const LIMITS: Partial<Record<FieldName, { low: number; high: number; scale: number; words: string }>> = {
  spot: { low: 1e-9, high: 1e12, scale: 1, words: 'must be more than 0' },
  forward: { low: -1e12, high: 1e12, scale: 1, words: 'must be a price' },
  strike: { low: -1e12, high: 1e12, scale: 1, words: 'must be a price' },
  days: { low: 0, high: 36_500, scale: 1, words: 'must be from 0 to 36 500 days' },
  vol: { low: 0, high: 40, scale: 0.01, words: 'must be from 0 to 4 000 %' },
  rate: { low: -0.5, high: 2, scale: 0.01, words: 'must be from −50 to 200 %' },
  yield: { low: -0.5, high: 2, scale: 0.01, words: 'must be from −50 to 200 %' },
  multiplier: { low: 1e-6, high: 1e9, scale: 1, words: 'must be more than 0' },
  quantity: { low: -1e9, high: 1e9, scale: 1, words: 'must be a number of contracts' },
  steps: { low: 3, high: MOST_STEPS, scale: 1, words: `must be from 3 to ${MOST_STEPS}` },
};

/** Dividends as they are typed: `40: 1.20, 131: 1.20`, days from the valuation and amounts. */
function readDividends(text: string): Read<readonly CashDividend[]> {
  const found: CashDividend[] = [];
  for (const part of text.split(/[,;]/).filter((piece) => piece.trim() !== '')) {
    const [days, amount, ...more] = part.split(':').map(readNumber);
    if (more.length > 0 || !(days! >= 0) || !(amount! >= 0)) {
      return { problem: `“${part.trim()}” is not days: amount, like 40: 1.20` };
    }
    found.push({ years: days! / DAYS_PER_YEAR, amount: amount! });
  }
  return { value: found };
}

function readMoment(text: string, zone: string): Read<number> {
  const at = DateTime.fromISO(text, { zone });
  return at.isValid ? { value: at.toMillis() } : { problem: 'must be a date and time like 2031-04-17 16:00' };
}

/** Reads what is typed into a field. */
export function readField(name: FieldName, text: string, terms: Terms, zone: string): Read<Partial<Terms>> {
  const take = <T>(read: Read<T>): Read<Partial<Terms>> => ('value' in read ? { value: { [name]: read.value } } : read);
  if (name === 'model') {
    const model = MODEL_IDS.find((id) => id === text);
    return model ? { value: { model } } : { problem: 'is no model' };
  }
  if (name === 'exercise') {
    return text === 'european' || text === 'american' ? { value: { exercise: text } } : { problem: 'is no exercise' };
  }
  if (name === 'dividends') return take(readDividends(text));
  if (name === 'valued' || name === 'expires') return take(readMoment(text.trim().replace(' ', 'T'), zone));
  const { low, high, scale, words } = LIMITS[name]!;
  const value = readNumber(text);
  if (Number.isNaN(value)) return { problem: 'must be a number' };
  if (name === 'strike' && terms.model !== 'bachelier' && !(value > 0)) return { problem: 'must be more than 0' };
  if (name === 'forward' && terms.model !== 'bachelier' && !(value > 0)) return { problem: 'must be more than 0' };
  return take(within(value * scale, low, high, words));
}

/** Dividends as they are read. */
export function writeDividends(dividends: readonly CashDividend[]): string {
  return dividends.map(({ years, amount }) => `${shorten(years * DAYS_PER_YEAR)}: ${shorten(amount)}`).join(', ');
}

/** How a field is written, without its unit: exactly what was typed is read again. */
export function writeField(name: FieldName, terms: Terms, zone: string): string {
  if (name === 'model' || name === 'exercise') return terms[name];
  if (name === 'dividends') return writeDividends(terms.dividends);
  if (name === 'valued' || name === 'expires') {
    return DateTime.fromMillis(terms[name], { zone }).toFormat('yyyy-MM-dd HH:mm');
  }
  return shorten(terms[name] / (LIMITS[name]?.scale ?? 1));
}

/** Digits that a field shows: enough for every price and rate that is typed. */
const SHOWN_DIGITS = 7;

function shorten(value: number): string {
  return Number.isFinite(value) ? String(Number(value.toPrecision(SHOWN_DIGITS))) : '';
}

/** What is changed of the focus, by field; moments as the fields write them, numbers in the units of the fields. */
export type Changes = Partial<Record<FieldName, string | undefined>>;

/** Reads the changes of an address; what is no field is passed over. */
export function readChanges(text: string): Changes {
  const changes: Changes = {};
  for (const part of text.split(';')) {
    const at = part.indexOf('=');
    const name = FIELD_NAMES.find((known) => known === part.slice(0, at));
    if (name) changes[name] = part.slice(at + 1);
  }
  return changes;
}

export function writeChanges(changes: Changes): string {
  return FIELD_NAMES.filter((name) => changes[name] !== undefined)
    .map((name) => `${name}=${changes[name]}`)
    .join(';');
}

/** Terms with changes put in, and what is wrong with those that could not be. */
export interface Changed {
  terms: Terms;
  problems: Partial<Record<FieldName, string>>;
}

export function applyChanges(reference: Terms, changes: Changes, zone: string): Changed {
  let terms = reference;
  const problems: Changed['problems'] = {};
  for (const name of FIELD_NAMES) {
    const text = changes[name];
    if (text === undefined) continue;
    const read = readField(name, text, terms, zone);
    if ('problem' in read) problems[name] = read.problem;
    else terms = { ...terms, ...read.value };
    const isMoment = name === 'valued' || name === 'expires';
    if (isMoment && changes.days === undefined) {
      terms = { ...terms, days: yearsBetween(terms.valued, terms.expires) * DAYS_PER_YEAR };
    }
  }
  if (terms.days < 0) problems.expires ??= 'is before the valuation';
  // A tree can be exercised early or not; the other models have one of their own.
  return { terms: { ...terms, exercise: exerciseOf(terms) }, problems };
}

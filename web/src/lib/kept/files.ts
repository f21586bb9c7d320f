import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { save } from '$lib/exports/files';
import type { KeptStructure } from './structures';

/** Structures as a file holds them. */
export type GivenStructure = z.input<typeof schemas.StructuresRequest>['structures'][number];

export const FORMATS = ['csv', 'json'] as const;
type Format = (typeof FORMATS)[number];

/** Columns of a file of legs: a row a leg, and one for the underlying where some of it is held. */
const COLUMNS = [
  ...['structure', 'symbol', 'name', 'tags', 'quantity', 'note'],
  ...['expiry', 'settlement', 'strike', 'side', 'leg_quantity', 'delivery'],
] as const;
type Row = Record<(typeof COLUMNS)[number], string>;
/** The side of a row that is of the underlying. */
const UNDERLYING = 'underlying';
const BETWEEN_TAGS = ';';

const given = ({ symbol, legs, held, quantity, name, tags, note }: KeptStructure): GivenStructure => ({
  ...{ symbol, name, tags, quantity, note, held },
  legs: legs.map(({ symbol: delivery, expiry, settlement, strike, side, quantity: of }) => ({
    ...(delivery && { symbol: delivery }),
    ...{ expiry, settlement: settlement ?? 'pm', strike, side, quantity: of },
  })),
});

/** Structures as a text: legs as CSV, or whole as JSON; {@link readKept} reads both. */
export async function keptText(rows: readonly KeptStructure[], format: Format): Promise<string> {
  const structures = rows.map(given);
  if (format === 'json') return `${JSON.stringify({ structures }, null, 2)}\n`;
  const { default: Papa } = await import('papaparse');
  const lines = structures.flatMap((one, i) => {
    const { symbol, name = '', tags = [], quantity = 1, note = '', legs, held = 0 } = one;
    const same = [i + 1, symbol, name, tags.join(BETWEEN_TAGS), quantity, note];
    return [
      ...legs.map((leg) => [...same, leg.expiry, leg.settlement, leg.strike, leg.side, leg.quantity, leg.symbol ?? '']),
      ...(held === 0 ? [] : [[...same, '', '', '', UNDERLYING, held, '']]),
    ];
  });
  return `${Papa.unparse({ fields: [...COLUMNS], data: lines }, { escapeFormulae: true, newline: '\r\n' })}\r\n`;
}

/** Hands structures over as a file. */
export async function writeKept(rows: readonly KeptStructure[], format: Format): Promise<void> {
  const type = format === 'csv' ? 'text/csv' : 'application/json';
  save(new Blob([await keptText(rows, format)], { type }), `structures.${format}`);
}

/**
 * Reads structures that {@link keptText} has written, or that were written like that.
 *
 * @param name of the file, which tells its format
 * @throws Error that names the row and the column of what makes no sense
 */
export async function readKept(text: string, name: string): Promise<GivenStructure[]> {
  if (!name.toLowerCase().endsWith('.json')) return fromRows(await rowsOf(text));
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch (error) {
    throw new Error('the file is no JSON', { cause: error });
  }
  const { structures } = (read ?? {}) as { structures?: GivenStructure[] };
  if (!Array.isArray(structures)) throw new Error('the file has no list “structures”');
  return structures;
}

async function rowsOf(text: string): Promise<Row[]> {
  const { default: Papa } = await import('papaparse');
  const { data, meta } = Papa.parse<Row>(text.replace(/^\ufeff/, ''), { header: true, skipEmptyLines: 'greedy' });
  const missing = ['symbol', 'side', 'leg_quantity'].filter((column) => !meta.fields?.includes(column));
  if (missing.length > 0) throw new Error(`the file has no column ${missing.join(' and no column ')}`);
  return data;
}

/** Rows of one number belong together; without numbers those of one symbol and name. */
function fromRows(rows: readonly Row[]): GivenStructure[] {
  const found = new Map<string, GivenStructure & { legs: GivenStructure['legs'] }>();
  rows.forEach((row, i) => {
    // The head is the first line.
    const place = `row ${i + 2}`;
    const text = (column: keyof Row) => (row[column] ?? '').trim().replace(/^'(?=[=+\-@])/, '');
    const number = (column: keyof Row, usual?: number) => {
      const value = text(column) === '' && usual !== undefined ? usual : Number(text(column) || NaN);
      if (!Number.isFinite(value)) throw new Error(`${place}: “${text(column)}” is no ${column.replace('_', ' ')}`);
      return value;
    };
    const key = text('structure') || `${text('symbol')} ${text('name')}`;
    const one = found.get(key) ?? {
      ...{ symbol: text('symbol'), name: text('name'), note: text('note'), quantity: number('quantity', 1), held: 0 },
      tags: text('tags').split(BETWEEN_TAGS).filter(Boolean),
      legs: [],
    };
    if (one.symbol !== text('symbol'))
      throw new Error(`${place}: a leg on ${text('symbol')} in a structure on ${one.symbol}`);
    found.set(key, one);
    const side = text('side').toLowerCase();
    const quantity = number('leg_quantity');
    if (side === UNDERLYING) {
      one.held = (one.held ?? 0) + quantity;
      return;
    }
    if (side !== 'call' && side !== 'put')
      throw new Error(`${place}: “${text('side')}” is neither call nor put nor ${UNDERLYING}`);
    const settlement = text('settlement').toLowerCase();
    if (settlement !== '' && settlement !== 'am' && settlement !== 'pm')
      throw new Error(`${place}: “${text('settlement')}” is neither am nor pm`);
    const leg = { expiry: text('expiry'), strike: number('strike'), side, quantity } as const;
    const delivery = text('delivery');
    one.legs = [...one.legs, { ...leg, ...(settlement && { settlement }), ...(delivery && { symbol: delivery }) }];
  });
  return [...found.values()];
}

/**
 * The data of Umwelt. Market data are double precision, times timestamptz in UTC, days ISO dates of the
 * exchange. Who writes a table, and whether it can be rebuilt, stands above each.
 *
 * `slices`, `fits` and `measures` are partitioned by month of the as-of; partitions are made by the import
 * as they are needed (see partitions.ts), and the PARTITION BY clause is in the first migration, since the
 * generator of migrations has no word for it.
 */
import {
  BORROW_MAPS,
  CURVE_SHAPES,
  EXERCISES,
  EXPIRY_ASIDES,
  FIT_NUMBERS,
  MEASURE_NUMBERS,
  namesOf,
  SETTLEMENTS,
  UNDERLYING_KINDS,
  type Aside,
  type Leg,
  type OptionId,
  type QualityParts,
  type UnderlyingKind,
} from '@umwelt/core';
import { IMPORT_STATES } from '../../api/imports/states';
import { sql } from 'drizzle-orm';
import {
  bigint,
  bigserial,
  boolean,
  customType,
  date,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  smallint,
  text,
} from 'drizzle-orm/pg-core';
import { instant, side, version } from './column-types';

export * from './book-schema';

/** A column of doubles; NaN stands for a missing value inside it. */
const doubles = customType<{ data: Float64Array; driverData: string | number[] }>({
  dataType: () => 'double precision[]',
  toDriver: (values) => `{${values.join(',')}}`,
  fromDriver: (values) => new Float64Array(values as number[]),
});

/** Never wraps around, unlike `xid`. */
const transactionId = customType<{ data: string }>({ dataType: () => 'xid8' });

const bytea = customType<{ data: Buffer }>({ dataType: () => 'bytea' });

/** A fault of an imported row. */
export interface RowFault {
  row: number;
  column: string;
  value: string;
  reason: string;
}

/** Written by imports of `underlyings` files. Not derived. */
export const underlyings = pgTable('underlyings', {
  symbol: text('symbol').primaryKey(),
  name: text('name').notNull(),
  kind: text('kind', { enum: UNDERLYING_KINDS }).notNull(),
  currency: text('currency'),
  multiplier: doublePrecision('multiplier').notNull(),
  exercise: text('exercise', { enum: EXERCISES }).notNull(),
  family: text('family'),
  familyRatio: doublePrecision('family_ratio'),
  calendar: text('calendar'),
  root: text('root'),
  expires: date('expires'),
  tick: doublePrecision('tick'),
});

const barColumns = {
  open: doublePrecision('open').notNull(),
  high: doublePrecision('high').notNull(),
  low: doublePrecision('low').notNull(),
  close: doublePrecision('close').notNull(),
  volume: doublePrecision('volume'),
};

/** Daily bars, written by imports of `bars` files. Not derived. */
export const bars = pgTable(
  'bars',
  {
    symbol: text('symbol')
      .notNull()
      .references(() => underlyings.symbol),
    date: date('date').notNull(),
    ...barColumns,
  },
  (table) => [primaryKey({ columns: [table.symbol, table.date] })],
);

/** Bars inside a session, written by imports of `bars` files with times. Not derived. */
export const intradayBars = pgTable(
  'intraday_bars',
  {
    symbol: text('symbol')
      .notNull()
      .references(() => underlyings.symbol),
    time: instant('time').notNull(),
    ...barColumns,
  },
  (table) => [primaryKey({ columns: [table.symbol, table.time] })],
);

/** Rate curves by day and currency, written by imports of `rates` files. Not derived. */
export const rates = pgTable(
  'rates',
  {
    currency: text('currency').notNull(),
    date: date('date').notNull(),
    days: integer('days').notNull(),
    rate: doublePrecision('rate').notNull(),
  },
  (table) => [primaryKey({ columns: [table.currency, table.date, table.days] })],
);

/** Cash dividends, written by imports of `dividends` files. Not derived. */
export const dividends = pgTable(
  'dividends',
  {
    symbol: text('symbol')
      .notNull()
      .references(() => underlyings.symbol),
    exDate: date('ex_date').notNull(),
    kind: text('kind').notNull(),
    amount: doublePrecision('amount').notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.exDate, table.kind] })],
);

/** Announcements, written by imports of `events` files; a blank symbol concerns all. Not derived. */
export const events = pgTable(
  'events',
  {
    symbol: text('symbol').notNull(),
    start: instant('start').notNull(),
    title: text('title').notNull(),
    kind: text('kind'),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.start, table.title] })],
);

/**
 * The tape: every trade as it was reported, written by imports of `prints` files and by the feed (which has no import).
 * Not derived.
 */
export const prints = pgTable(
  'prints',
  {
    symbol: text('symbol')
      .notNull()
      .references(() => underlyings.symbol),
    time: instant('time').notNull(),
    expiry: date('expiry').notNull(),
    strike: doublePrecision('strike').notNull(),
    side: side('side').notNull(),
    price: doublePrecision('price').notNull(),
    size: doublePrecision('size').notNull(),
    /** Null: pm, or the only series of that day. */
    settlement: text('settlement', { enum: SETTLEMENTS }),
    /** Legs of one trade share it; blank for a trade of one leg. */
    group: text('group').notNull(),
    importId: integer('import_id'),
    /** Hash of the columns above and of the occurrence: alike prints of one moment are told apart. */
    id: bigint('id', { mode: 'number' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.time, table.id] })],
);

/** How a file writes its numbers, days and times, where that is not as in docs/formats.md. */
export interface Conventions {
  /** Between the cells of a CSV file. */
  delimiter?: ',' | ';' | '\t' | '|';
  decimal?: '.' | ',';
  /** Order of the parts of a day. */
  dates?: 'iso' | 'dmy' | 'mdy';
  /** Zone (IANA name) of times that name none; without it that of the exchange. */
  zone?: string;
}

/** One row per import, written while it runs. */
export const imports = pgTable('imports', {
  id: serial('id').primaryKey(),
  file: text('file').notNull(),
  bytes: bigint('bytes', { mode: 'number' }).notNull().default(0),
  /** Kind of file, told from its header. */
  what: text('what'),
  format: text('format'),
  status: text('status', { enum: IMPORT_STATES }).notNull(),
  detail: text('detail'),
  /** Names of the file's columns that stand for ours: ours by theirs. null: by the rules of the header. */
  columns: jsonb('columns').$type<Record<string, string>>(),
  conventions: jsonb('conventions').$type<Conventions>().notNull().default({}),
  acceptBadRows: boolean('accept_bad_rows').notNull().default(false),
  /** Set to stop it; the worker that runs it checks this regularly. */
  isCancelled: boolean('is_cancelled').notNull().default(false),
  bytesRead: bigint('bytes_read', { mode: 'number' }).notNull().default(0),
  rows: integer('rows').notNull().default(0),
  badRows: integer('bad_rows').notNull().default(0),
  counts: jsonb('counts').$type<Record<string, number>>().notNull().default({}),
  faults: jsonb('faults').$type<RowFault[]>().notNull().default([]),
  ignoredColumns: jsonb('ignored_columns').$type<string[]>().notNull().default([]),
  started: instant('started').notNull().defaultNow(),
  finished: instant('finished'),
});

/** The file of an import in pieces, so that any worker can read it. Kept for some days, then removed by a job. */
export const uploads = pgTable(
  'uploads',
  {
    importId: integer('import_id')
      .notNull()
      .references(() => imports.id, { onDelete: 'cascade' }),
    part: integer('part').notNull(),
    bytes: bytea('bytes').notNull(),
  },
  (table) => [primaryKey({ columns: [table.importId, table.part] })],
);

/** Long work that is no import: one row each, written while it runs. */
export const tasks = pgTable('tasks', {
  id: serial('id').primaryKey(),
  kind: text('kind', { enum: ['demo', 'rebuild', 'export'] }).notNull(),
  status: text('status', { enum: ['queued', 'running', 'done', 'failed', 'cancelled'] }).notNull(),
  /** What is to be done, as its job takes it. */
  input: jsonb('input').$type<Record<string, unknown>>().notNull().default({}),
  done: doublePrecision('done').notNull().default(0),
  total: doublePrecision('total').notNull().default(0),
  detail: text('detail'),
  isCancelled: boolean('is_cancelled').notNull().default(false),
  /** Size of the file that it has made; null where there is none, or where it is not kept any longer. */
  fileBytes: bigint('file_bytes', { mode: 'number' }),
  started: instant('started').notNull().defaultNow(),
  finished: instant('finished'),
});

/** The file that a task has made, in pieces. Kept for some days, then removed by a job. */
export const taskFiles = pgTable(
  'task_files',
  {
    taskId: integer('task_id')
      .notNull()
      .references(() => tasks.id, { onDelete: 'cascade' }),
    part: integer('part').notNull(),
    bytes: bytea('bytes').notNull(),
  },
  (table) => [primaryKey({ columns: [table.taskId, table.part] })],
);

/**
 * What imports displaced, so that each can be undone: a row per record that was added (without `before`) or changed.
 * Of a chain only what replaced snapshots were is here: added ones are known by their import.
 */
export const journal = pgTable(
  'journal',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    importId: integer('import_id')
      .notNull()
      .references(() => imports.id, { onDelete: 'cascade' }),
    table: text('table_name').notNull(),
    key: jsonb('key').$type<Record<string, string>>().notNull(),
    before: jsonb('before').$type<Record<string, unknown>>(),
  },
  (table) => [
    index('journal_import').on(table.importId),
    index('journal_key').on(table.table, sql`md5(${table.key}::text)`),
  ],
);

/** How the columns of a header were matched the last time, so that the same header is matched so again. */
export const columnMatches = pgTable('column_matches', {
  /** The header's names, as they stand there, joined. */
  header: text('header').primaryKey(),
  kind: text('kind').notNull(),
  columns: jsonb('columns').$type<Record<string, string>>().notNull(),
  conventions: jsonb('conventions').$type<Conventions>().notNull(),
  used: instant('used').notNull().defaultNow(),
});

/** One row per (underlying, as-of) held, written by imports of `chain` files with its slices. Not derived. */
export const snapshots = pgTable(
  'snapshots',
  {
    symbol: text('symbol')
      .notNull()
      .references(() => underlyings.symbol),
    asof: instant('asof').notNull(),
    /** As quoted in the file; null when it had none. */
    price: doublePrecision('price'),
    contracts: integer('contracts').notNull(),
    /** Hash of the quotes, so that the same snapshot again is known to change nothing. */
    digest: text('digest').notNull(),
    importId: integer('import_id').notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.asof] }), index('snapshots_asof').on(table.asof)],
);

const sliceKey = {
  symbol: text('symbol').notNull(),
  asof: instant('asof').notNull(),
  expiry: date('expiry').notNull(),
  settlement: text('settlement', { enum: SETTLEMENTS }).notNull(),
};

/** The unit of storage: all quotes of one expiry at one moment, strikes ascending. Not derived. */
export const slices = pgTable(
  'slices',
  {
    ...sliceKey,
    strike: doubles('strike').notNull(),
    callBid: doubles('call_bid').notNull(),
    callAsk: doubles('call_ask').notNull(),
    callBidSize: doubles('call_bid_size').notNull(),
    callAskSize: doubles('call_ask_size').notNull(),
    callLast: doubles('call_last').notNull(),
    callVolume: doubles('call_volume').notNull(),
    callOpenInterest: doubles('call_open_interest').notNull(),
    putBid: doubles('put_bid').notNull(),
    putAsk: doubles('put_ask').notNull(),
    putBidSize: doubles('put_bid_size').notNull(),
    putAskSize: doubles('put_ask_size').notNull(),
    putLast: doubles('put_last').notNull(),
    putVolume: doubles('put_volume').notNull(),
    putOpenInterest: doubles('put_open_interest').notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.asof, table.expiry, table.settlement] })],
);

/** Columns of numbers that need not exist, of a table of the core: riskReversal25 stands in risk_reversal_25, iv30 in iv30. */
function numberColumns<Name extends string>(table: Readonly<Record<Name, string>>) {
  const column = (name: string) =>
    doublePrecision(name.replace(/(?<!^iv)(?<![0-9])[0-9]+|[A-Z]/g, (part) => `_${part.toLowerCase()}`));
  return Object.fromEntries(namesOf(table).map((name) => [name, column(name)])) as Record<
    Name,
    ReturnType<typeof column>
  >;
}

/** Forward, curve and measures of each slice. Derived: can be dropped and rebuilt from slices. */
export const fits = pgTable(
  'fits',
  {
    ...sliceKey,
    years: doublePrecision('years').notNull(),
    days: doublePrecision('days').notNull(),
    sessions: integer('sessions').notNull(),
    rate: doublePrecision('rate').notNull(),
    discount: doublePrecision('discount').notNull(),
    ...numberColumns(FIT_NUMBERS),
    forwardSource: text('forward_source', { enum: ['parity', 'carry'] }).notNull(),
    curveKind: text('curve_kind', { enum: ['svi', 'svi3', 'flat', 'mixture'] }),
    /** Its parameters, by kind. */
    curve: doubles('curve'),
    /** Where its shape comes from. */
    curveShape: text('curve_shape', { enum: CURVE_SHAPES }).notNull().default('own'),
    contracts: integer('contracts').notNull(),
    usable: integer('usable').notNull(),
    refused: jsonb('refused').$type<number[]>().notNull(),
    /** Contracts with a vol that are not used, with the code of the reason. */
    aside: jsonb('aside').$type<Aside[]>().notNull().default([]),
    /** Why the whole expiry is not used. */
    expiryAside: text('expiry_aside', { enum: EXPIRY_ASIDES }),
    qualityParts: jsonb('quality_parts').$type<QualityParts>(),
    method: smallint('method').notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.asof, table.expiry, table.settlement] })],
);

/** Measures of an underlying at one moment. Derived: can be dropped and rebuilt from slices. */
export const measures = pgTable(
  'measures',
  {
    symbol: text('symbol').notNull(),
    asof: instant('asof').notNull(),
    ...numberColumns(MEASURE_NUMBERS),
    frontExpiry: date('front_expiry'),
    contracts: integer('contracts').notNull(),
    usable: integer('usable').notNull(),
    method: smallint('method').notNull(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.asof] })],
);

/**
 * What has changed, a row per statement, table and symbol, written by triggers (migration 10): whoever keeps what it has read
 * learns from here what to read again. Old rows are removed by a job.
 */
export const changes = pgTable(
  'changes',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    what: text('what').notNull(),
    /** Blank for what concerns all. */
    symbol: text('symbol').notNull(),
    /** The transaction: it can be seen later than one that began after it. */
    transaction: transactionId('transaction')
      .notNull()
      .default(sql`pg_current_xact_id()`),
    changed: instant('changed').notNull().defaultNow(),
  },
  (table) => [index('changes_transaction').on(table.transaction)],
);

/** Screens of the Universe that somebody keeps: columns, conditions and order by a name. Not derived. */
export const screens = pgTable('screens', {
  id: serial('id').primaryKey(),
  name: text('name').notNull().unique(),
  columns: jsonb('columns').$type<string[]>().notNull(),
  filters: jsonb('filters').$type<string[]>().notNull(),
  kinds: jsonb('kinds').$type<UnderlyingKind[]>().notNull().default([]),
  families: jsonb('families').$type<string[]>().notNull().default([]),
  /** As it stands in the address; blank for the usual order. */
  sort: text('sort').notNull().default(''),
  version: version(),
  changed: instant('changed').notNull().defaultNow(),
});

/** What is looked for again and again in the Finder, as the API takes it; shared by all who use the server. */
export const templates = pgTable('finder_templates', {
  id: serial('id').primaryKey(),
  name: text('name').notNull().unique(),
  asked: jsonb('asked').$type<Record<string, unknown>>().notNull(),
  version: version(),
  changed: instant('changed').notNull().defaultNow(),
});

/** One leg of a structure as it is stored, for one of the structure: of its underlying, or of another delivery where that is named. */
export type StoredLeg = Omit<Leg<OptionId>, 'symbol'> & { symbol?: string };

/** Structures that somebody has priced and keeps, with what they were worth then; shared by all who use the server. Not derived. */
export const structures = pgTable('structures', {
  id: serial('id').primaryKey(),
  /** No foreign key: what people have made is kept when the data are removed, and works again when they are back. */
  symbol: text('symbol').notNull(),
  legs: jsonb('legs').$type<StoredLeg[]>().notNull(),
  /** Of the underlying beside the legs, in its own units. */
  held: doublePrecision('held').notNull().default(0),
  quantity: doublePrecision('quantity').notNull(),
  name: text('name').notNull().default(''),
  tags: text('tags').array().notNull().default([]),
  note: text('note').notNull().default(''),
  /** The moment of the market at which it was priced, and its theory on the curve and its mid then, for one unit. */
  asof: instant('asof').notNull(),
  value: doublePrecision('value'),
  mid: doublePrecision('mid'),
  created: instant('created').notNull().defaultNow(),
  changed: instant('changed').notNull().defaultNow(),
  version: version(),
  /** When it was deleted; it can be brought back for some days. */
  dropped: instant('dropped'),
});

/**
 * What people have decided about contracts and expiries of a snapshot: to set them aside, or to use them though they
 * were set aside. Not derived; what depends on it is derived again.
 */
export const exclusions = pgTable(
  'verdicts',
  {
    ...sliceKey,
    /** 0 and blank for the whole expiry. */
    strike: doublePrecision('strike').notNull(),
    side: text('side', { enum: ['call', 'put', ''] }).notNull(),
    decision: text('verdict', { enum: ['use', 'aside'] }).notNull(),
    /** Whether it holds for all moments from this one on. */
    isLasting: boolean('is_lasting').notNull().default(false),
  },
  (table) => [
    primaryKey({
      columns: [table.symbol, table.asof, table.expiry, table.settlement, table.strike, table.side],
    }),
  ],
);

/**
 * Expiries whose curve is taken from another underlying or expiry, at every moment. Written by people. Not derived; it is
 * laid over the fits as they are read, so that it moves with its source.
 */
export const borrowings = pgTable(
  'borrowings',
  {
    /** No foreign key, as for everything that people have made. */
    symbol: text('symbol').notNull(),
    expiry: date('expiry').notNull(),
    settlement: text('settlement', { enum: SETTLEMENTS }).notNull(),
    source: text('source').notNull(),
    /** The name of an expiry; null: the nearest in time. */
    sourceExpiry: text('source_expiry'),
    map: text('map', { enum: BORROW_MAPS }).notNull(),
    ratio: doublePrecision('ratio'),
    offset: doublePrecision('price_offset').notNull(),
    volShift: doublePrecision('vol_shift').notNull(),
    slope: doublePrecision('slope').notNull(),
    curvature: doublePrecision('curvature').notNull(),
    version: version(),
  },
  (table) => [primaryKey({ columns: [table.symbol, table.expiry, table.settlement] })],
);

/**
 * Requests that make something and came with a key of the caller's: the same again is answered as it was, and makes nothing more.
 * Removed by a job after a day.
 */
export const requests = pgTable(
  'requests',
  {
    /** Method and path, and the caller's key. */
    what: text('what').notNull(),
    key: text('key').notNull(),
    /** Hash of the rest of the request: a key stands for one alone. */
    digest: text('digest').notNull(),
    /** null while it is worked on. */
    status: smallint('status'),
    headers: jsonb('headers').$type<[string, string][]>(),
    body: text('body'),
    begun: instant('begun').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.what, table.key] })],
);

/** The simulated feed: one row, once it has been started. What it has stored depends on its import. */
export const feed = pgTable('feed', {
  id: smallint('id').primaryKey(),
  status: text('status', { enum: ['running', 'stopped'] }).notNull(),
  /** Seconds of the market per second. */
  speed: doublePrecision('speed').notNull(),
  /** The moment of the market that was reached, and when that was stated; a running feed is further on by now. */
  moment: instant('moment').notNull(),
  stated: instant('stated').notNull(),
  /** Everything up to this moment of the market is stored. */
  storedTo: instant('stored_to').notNull(),
  importId: integer('import_id').notNull(),
});

/** What the application remembers about itself, such as the version of the demo it holds. */
export const settings = pgTable('settings', {
  key: text('key').primaryKey(),
  value: text('value').notNull(),
  changed: bigint('changed', { mode: 'number' }).notNull(),
});

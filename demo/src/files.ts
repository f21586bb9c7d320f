import { namedExpiry } from '@umwelt/core';
import { BOOK, Trader } from './book';
import { once } from 'node:events';
import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chainsOf, isTraded, trueSmiles } from './chains';
import { lineageOf, World } from './market';
import { LAST_QUARTER, quarterInstant, sessionDays, type Session } from './path';
import { printsOf } from './prints';
import { contractOf } from './listing';
import type { Quote } from './quotes';
import { ratesOf, varianceOf } from './smile';
import { UNDERLYINGS } from './underlyings';
import { CALENDAR, CLOCK, type UnderlyingSpec } from './world';

/** Raised when the world changes, so that an application that holds an older one takes the new. */
export const DEMO_VERSION = 10;

/** The exchange is one hour behind UTC all year. */
const OFFSET = '-01:00';
const OFFSET_MS = -3_600_000;

class CsvFile {
  private readonly stream;
  text = '';

  constructor(
    readonly path: string,
    header: string,
  ) {
    this.stream = createWriteStream(path);
    this.text = `${header}\r\n`;
  }

  add(line: string): void {
    this.text += `${line}\r\n`;
  }

  async flush(): Promise<void> {
    const isTaken = this.stream.write(this.text);
    this.text = '';
    if (!isTaken) await once(this.stream, 'drain');
  }

  async end(): Promise<void> {
    await this.flush();
    this.stream.end();
    await once(this.stream, 'finish');
  }
}

/** A price without the dust of binary fractions. */
function money(value: number): string {
  const cents = Math.round(value * 100);
  // Most are whole cents; others have up to five decimals.
  return Math.abs(cents - value * 100) < 1e-7 ? String(cents / 100) : String(Number(value.toFixed(5)));
}

/** A moment in the zone of the exchange. */
function clock(instant: number, length: 'minutes' | 'seconds' = 'minutes'): string {
  return new Date(instant + OFFSET_MS).toISOString().slice(0, length === 'minutes' ? 16 : 19) + OFFSET;
}

const CHAIN_HEADER =
  'asof,symbol,expiry,strike,side,bid,ask,bid_size,ask_size,last,volume,open_interest,underlying_price,settlement';

function addChain(file: CsvFile, symbol: string, asof: string, price: number, quotes: readonly Quote[]): void {
  const head = `${asof},${symbol},`;
  const tail = `,${money(price)},`;
  // Those of an expiry stand together.
  let known = { name: '', expiry: '', settlement: '' };
  for (const { expiry: name, strike, side, bid, ask, bidSize, askSize, last, volume, openInterest } of quotes) {
    if (name !== known.name) known = { name, ...namedExpiry(name)! };
    const { expiry, settlement } = known;
    file.text +=
      `${head}${expiry},${money(strike)},${side},${money(bid)},${money(ask)},${bidSize},${askSize},` +
      `${last === null ? '' : money(last)},${volume},${openInterest}${tail}${settlement}\r\n`;
  }
}

/** What is known of an underlying once its chain is written, as lines of the files of all: see {@link writeRest}. */
export interface Told {
  /** Of the tape. */
  prints: string[];
  /** Of the book. */
  fills: string[];
  /** What the market had in mind, and what is wrong with its quotes: for tests alone, nothing imports it. */
  smiles: string[];
  faults: string[];
}

let played: World | undefined;

/** Sessions of an underlying. They take a second or two to be played: once for all files that are written here. */
const pathOf = (symbol: string): Session[] => (played ??= new World()).path(symbol);

/** Writes the chain of an underlying through the year. Chains may be written at the same time, in any order. */
export async function writeChain(folder: string, symbol: string): Promise<{ path: string; told: Told }> {
  const { spec } = lineageOf(symbol);
  mkdirSync(folder, { recursive: true });
  const file = new CsvFile(join(folder, `chain-${symbol}.csv`), CHAIN_HEADER);
  const told: Told = { prints: [], fills: [], smiles: [], faults: [] };
  const trader = new Trader(symbol, LAST_QUARTER);
  let traded = new Map<string, number>();
  const print = (session: Session, quarter: number, quotes: Quote[]) => {
    if (session.day === CLOCK.lastDay) traded = addPrints(told.prints, spec, session.day, quarter, quotes, traded);
  };
  for (const { session, quarter, moment, quotes, clean, faults } of chainsOf(spec, pathOf(symbol), print)) {
    const asof = clock(moment.asof);
    for (const { position, quote, quantity, price, fee } of trader.trades(session.day, quarter, moment.price, clean)) {
      const { expiry, settlement } = namedExpiry(quote.expiry)!;
      told.fills.push(
        `${asof},${BOOK},${position},${symbol},${expiry},${settlement},${money(quote.strike)},${quote.side},` +
          `${quantity},${money(price)},${fee}`,
      );
    }
    addChain(file, symbol, asof, moment.price, quotes);
    await file.flush();
    for (const [expiry, { forward, years, theta, rho, phi }] of trueSmiles(spec, moment, quotes)) {
      told.smiles.push([asof, symbol, expiry, forward, Math.sqrt(theta / years), rho, phi].join(','));
    }
    for (const { kind, expiry, strike, side } of faults) {
      told.faults.push([asof, symbol, kind, expiry, money(strike), side].join(','));
    }
  }
  await file.end();
  return { path: file.path, told };
}

/** Prints of a quarter: what each contract's volume has gained since the one before. */
function addPrints(
  tape: string[],
  spec: UnderlyingSpec,
  day: string,
  quarter: number,
  quotes: readonly Quote[],
  traded: ReadonlyMap<string, number>,
): Map<string, number> {
  const now = new Map(traded);
  const gained = new Map<string, number>();
  for (const quote of quotes) {
    const contract = contractOf(quote);
    const before = traded.get(contract) ?? 0;
    now.set(contract, quote.volume);
    gained.set(contract, quote.volume - before);
  }
  const to = quarterInstant(day, quarter);
  for (const print of printsOf(spec.symbol, quotes, gained, to - 900_000, to, spec.optionTick)) {
    const { expiry, settlement } = namedExpiry(print.expiry)!;
    tape.push(
      `${clock(print.time, 'seconds')},${spec.symbol},${expiry},${money(print.strike)},${print.side},` +
        `${money(print.price)},${print.size},${settlement},${print.group}`,
    );
  }
  return now;
}

/** Writes lines below a header. @returns the path of the file */
async function writeLines(folder: string, name: string, header: string, lines: readonly string[]): Promise<string> {
  const file = new CsvFile(join(folder, `${name}.csv`), header);
  for (const line of lines) file.add(line);
  await file.end();
  return file.path;
}

/**
 * Writes what there is beside chains and the tape, one file per kind in the open formats. The variance of each announcement, which
 * only the generator knows, stands in `truth/` beside them.
 *
 * @param folder is created when it is missing
 * @returns paths in the order in which they are to be imported, before any chain
 */
export async function writeTables(folder: string): Promise<string[]> {
  mkdirSync(join(folder, 'truth'), { recursive: true });
  const days = sessionDays();
  const written: string[] = [];
  const table = async (name: string, header: string, lines: readonly string[]) => {
    written.push(await writeLines(folder, name, header, lines));
  };
  await table(
    'underlyings',
    'symbol,name,kind,currency,multiplier,exercise,family,family_ratio,calendar,root,expires,tick',
    UNDERLYINGS.map((spec) =>
      [
        spec.symbol,
        spec.name,
        spec.kind,
        spec.currency,
        spec.multiplier,
        spec.exercise,
        spec.family,
        spec.familyRatio,
        CALENDAR.id,
        spec.root ?? '',
        spec.expires ?? '',
        spec.priceTick,
      ].join(','),
    ),
  );
  await table(
    'rates',
    'date,currency,days,rate',
    days
      .flatMap(ratesOf)
      .map(({ date, currency, days: term, rate }) => [date, currency, term, rate.toFixed(6)].join(',')),
  );
  await table(
    'dividends',
    'symbol,ex_date,amount,kind',
    UNDERLYINGS.flatMap((spec) =>
      [...spec.dividends.map((one) => ({ ...one, kind: 'cash' })), ...(spec.adjustment ? [spec.adjustment] : [])].map(
        ({ exDate, amount, kind }) => [spec.symbol, exDate, amount, kind].join(','),
      ),
    ),
  );
  await table(
    'events',
    'symbol,start,title,kind',
    UNDERLYINGS.filter((spec) => spec.family === spec.symbol).flatMap((spec) =>
      spec.events.map((event) =>
        [spec.symbol, `${event.day}T${event.time}${OFFSET}`, event.title, event.kind].join(','),
      ),
    ),
  );
  await table(
    'bars',
    'symbol,date,open,high,low,close,volume',
    // The last session is not over, so it has no bar yet.
    UNDERLYINGS.flatMap((spec) =>
      pathOf(spec.symbol)
        .slice(0, -1)
        .filter(({ day }) => isTraded(spec, day))
        .map(({ day, open, high, low, close, volume }) =>
          [spec.symbol, day, money(open), money(high), money(low), money(close), volume].join(','),
        ),
    ),
  );
  const events = UNDERLYINGS.flatMap(({ symbol, events: own }) =>
    own.map((event) => [symbol, event.day, event.title, varianceOf(event)].join(',')),
  );
  await writeLines(join(folder, 'truth'), 'events', 'symbol,day,title,variance', events);
  return written;
}

/** Files of the demo world that are imported. */
export const DEMO_FILES = UNDERLYINGS.length + 7;

/**
 * Writes what chains have told: the tape of the last day, the fills of the book, and in `truth/` the forwards and smiles that the quotes were made with,
 * and the faults that were planted.
 *
 * @returns paths of the tape and of the fills, which are imported last
 */
export async function writeRest(folder: string, told: readonly Told[]): Promise<string[]> {
  mkdirSync(join(folder, 'truth'), { recursive: true });
  const all = (part: keyof Told) => told.flatMap((one) => one[part]);
  const truth = join(folder, 'truth');
  await writeLines(truth, 'smiles', 'asof,symbol,expiry,forward,atm_vol,tilt,curvature', all('smiles'));
  await writeLines(truth, 'faults', 'asof,symbol,kind,expiry,strike,side', all('faults'));
  const tape = 'time,symbol,expiry,strike,side,price,size,settlement,group';
  const trades = 'time,book,position,symbol,expiry,settlement,strike,side,quantity,price,fee';
  return [
    await writeLines(folder, 'prints', tape, all('prints')),
    // In order of time: whoever holds several underlyings trades them in turn.
    await writeLines(folder, 'fills', trades, all('fills').sort()),
  ];
}

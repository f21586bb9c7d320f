import { namedExpiry } from '@umwelt/core';
import { once } from 'node:events';
import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chainsOf, trueSmiles } from './chains';
import { playWorld } from './market';
import { quarterInstant, sessionDays, type Session } from './path';
import { printsOf } from './prints';
import { contractOf, type Quote } from './quotes';
import { ratesOf, varianceOf } from './smile';
import { UNDERLYINGS } from './underlyings';
import { CALENDAR, CLOCK, type UnderlyingSpec } from './world';

/** Raised when the world changes, so that an application that holds an older one takes the new. */
export const DEMO_VERSION = 8;

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
  for (const { expiry: name, strike, side, bid, ask, bidSize, askSize, last, volume, openInterest } of quotes) {
    const { expiry, settlement } = namedExpiry(name)!;
    file.text +=
      `${head}${expiry},${money(strike)},${side},${money(bid)},${money(ask)},${bidSize},${askSize},` +
      `${last === null ? '' : money(last)},${volume},${openInterest}${tail}${settlement}\r\n`;
  }
}

async function writeChain(
  folder: string,
  spec: UnderlyingSpec,
  sessions: readonly Session[],
  tape: CsvFile,
  truth: Truth,
): Promise<string> {
  const { symbol } = spec;
  const file = new CsvFile(join(folder, `chain-${symbol}.csv`), CHAIN_HEADER);
  let told = new Map<string, number>();
  const print = (session: Session, quarter: number, quotes: Quote[]) => {
    if (session.day === CLOCK.lastDay) told = addPrints(tape, spec, session.day, quarter, quotes, told);
  };
  for (const { moment, quotes, faults } of chainsOf(spec, sessions, print)) {
    const asof = clock(moment.asof);
    addChain(file, symbol, asof, moment.price, quotes);
    await file.flush();
    for (const [expiry, { forward, years, theta, rho, phi }] of trueSmiles(spec, moment, quotes)) {
      truth.smiles.add([asof, symbol, expiry, forward, Math.sqrt(theta / years), rho, phi].join(','));
    }
    for (const { kind, expiry, strike, side } of faults) {
      truth.faults.add([asof, symbol, kind, expiry, money(strike), side].join(','));
    }
  }
  await file.end();
  return file.path;
}

/** What the market had in mind, and what is wrong with its quotes: for tests alone, nothing imports it. */
interface Truth {
  smiles: CsvFile;
  faults: CsvFile;
}

/** Prints of a quarter: what each contract's volume has gained since the one before. */
function addPrints(
  tape: CsvFile,
  spec: UnderlyingSpec,
  day: string,
  quarter: number,
  quotes: readonly Quote[],
  told: ReadonlyMap<string, number>,
): Map<string, number> {
  const now = new Map(told);
  const gained = new Map<string, number>();
  for (const quote of quotes) {
    const contract = contractOf(quote);
    const before = told.get(contract) ?? 0;
    now.set(contract, quote.volume);
    gained.set(contract, quote.volume - before);
  }
  const to = quarterInstant(day, quarter);
  for (const print of printsOf(spec.symbol, quotes, gained, to - 900_000, to, spec.optionTick)) {
    const { expiry, settlement } = namedExpiry(print.expiry)!;
    tape.add(
      `${clock(print.time, 'seconds')},${spec.symbol},${expiry},${money(print.strike)},${print.side},` +
        `${money(print.price)},${print.size},${settlement},${print.group}`,
    );
  }
  return now;
}

/** A file of the demo world that has been written. */
export interface DemoFile {
  path: string;
  /** The underlying that is complete with it; null for a file of all. */
  symbol: string | null;
}

/** Files of the demo world. */
export const DEMO_FILES = UNDERLYINGS.length + 6;

/**
 * Makes the demo world: one file per kind in the open formats, and a chain file per underlying. Each is handed out when
 * it is written, in the order in which they are to be imported, so that what has been read can be removed. Beside them, in
 * `truth/`, stands what only the generator knows: the forwards and smiles that the quotes were made with, the variance of each
 * announcement, and the faults that were planted.
 *
 * @param folder is created when it is missing
 * @param skip tells of an underlying that need not be written
 */
export async function* writeDemo(
  folder: string,
  skip: (symbol: string) => boolean = () => false,
): AsyncGenerator<DemoFile> {
  mkdirSync(folder, { recursive: true });
  const paths = playWorld();
  const days = sessionDays();
  const table = async (name: string, header: string, lines: readonly string[]): Promise<DemoFile> => {
    const file = new CsvFile(join(folder, `${name}.csv`), header);
    for (const line of lines) file.add(line);
    await file.end();
    return { path: file.path, symbol: null };
  };
  yield await table(
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
  yield await table(
    'rates',
    'date,currency,days,rate',
    days
      .flatMap(ratesOf)
      .map(({ date, currency, days: term, rate }) => [date, currency, term, rate.toFixed(6)].join(',')),
  );
  yield await table(
    'dividends',
    'symbol,ex_date,amount,kind',
    UNDERLYINGS.flatMap((spec) =>
      spec.dividends.map(({ exDate, amount }) => [spec.symbol, exDate, amount, 'cash'].join(',')),
    ),
  );
  yield await table(
    'events',
    'symbol,start,title,kind',
    UNDERLYINGS.filter((spec) => spec.family === spec.symbol).flatMap((spec) =>
      spec.events.map((event) =>
        [spec.symbol, `${event.day}T${event.time}${OFFSET}`, event.title, event.kind].join(','),
      ),
    ),
  );
  yield await table(
    'bars',
    'symbol,date,open,high,low,close,volume',
    // The last session is not over, so it has no bar yet.
    UNDERLYINGS.flatMap((spec) =>
      paths
        .get(spec.symbol)!
        .slice(0, -1)
        .map(({ day, open, high, low, close, volume }) =>
          [spec.symbol, day, money(open), money(high), money(low), money(close), volume].join(','),
        ),
    ),
  );
  const tape = new CsvFile(join(folder, 'prints.csv'), 'time,symbol,expiry,strike,side,price,size,settlement,group');
  mkdirSync(join(folder, 'truth'), { recursive: true });
  const announced = new CsvFile(join(folder, 'truth', 'events.csv'), 'symbol,day,title,variance');
  for (const { symbol, events } of UNDERLYINGS) {
    for (const event of events) announced.add([symbol, event.day, event.title, varianceOf(event)].join(','));
  }
  await announced.end();
  const truth = {
    smiles: new CsvFile(join(folder, 'truth', 'smiles.csv'), 'asof,symbol,expiry,forward,atm_vol,tilt,curvature'),
    faults: new CsvFile(join(folder, 'truth', 'faults.csv'), 'asof,symbol,kind,expiry,strike,side'),
  };
  for (const spec of UNDERLYINGS) {
    if (skip(spec.symbol)) continue;
    yield { path: await writeChain(folder, spec, paths.get(spec.symbol)!, tape, truth), symbol: spec.symbol };
    for (const file of [tape, truth.smiles, truth.faults]) await file.flush();
  }
  for (const file of [tape, truth.smiles, truth.faults]) await file.end();
  yield { path: tape.path, symbol: null };
}

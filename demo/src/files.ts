import { createWriteStream, mkdirSync } from 'node:fs';
import { once } from 'node:events';
import { join } from 'node:path';
import { DateTime } from 'luxon';
import { CALENDAR, islandMoves, playPath, sessionDays, snapshotInstant, type Session } from './path';
import { plantFaults, quotesAt, type Quote } from './quotes';
import { Random } from './random';
import { islandRate } from './smile';
import { CLOCK, UNDERLYINGS, type UnderlyingSpec } from './world';

/** Raised when the world changes, so that an application that holds an older one takes the new. */
export const DEMO_VERSION = 2;

const RATE_DAYS = [1, 7, 30, 91, 182, 365, 730];
const STALE_SESSIONS = 5;

class CsvFile {
  private readonly stream;

  constructor(path: string, header: string) {
    this.stream = createWriteStream(path);
    this.stream.write(`${header}\r\n`);
  }

  async write(lines: readonly string[]): Promise<void> {
    const isTaken = this.stream.write(lines.map((line) => `${line}\r\n`).join(''));
    if (!isTaken) await once(this.stream, 'drain');
  }

  async end(): Promise<void> {
    this.stream.end();
    await once(this.stream, 'finish');
  }
}

/** A price without the dust of binary fractions. */
const money = (value: number) => String(Number(value.toFixed(4)));

function chainLine(asof: string, symbol: string, price: number, quote: Quote): string {
  const { expiry, strike, side, bid, ask, bidSize, askSize, last, volume, openInterest } = quote;
  return [
    asof,
    symbol,
    expiry,
    money(strike),
    side,
    money(bid),
    money(ask),
    bidSize,
    askSize,
    last === null ? '' : money(last),
    volume,
    openInterest,
    money(price),
    'pm',
  ].join(',');
}

async function writeChain(folder: string, spec: UnderlyingSpec, sessions: readonly Session[], onSession: () => void) {
  const path = join(folder, `chain-${spec.symbol}.csv`);
  const file = new CsvFile(
    path,
    'asof,symbol,expiry,strike,side,bid,ask,bid_size,ask_size,last,volume,open_interest,underlying_price,settlement',
  );
  const recent: Quote[][] = [];
  for (let i = sessions.length - CLOCK.chainSessions; i < sessions.length; i++) {
    const session = sessions[i]!;
    const quotes = quotesAt(spec, session, sessions[i - 1]!);
    const pristine = quotes.map((quote) => ({ ...quote }));
    plantFaults(quotes, recent.at(-STALE_SESSIONS) ?? null, new Random(`${spec.symbol} ${session.day} faults`));
    recent.push(pristine);
    const asof = DateTime.fromMillis(snapshotInstant(session.day), { zone: CALENDAR.zone }).toISO({
      suppressMilliseconds: true,
      suppressSeconds: true,
    })!;
    await file.write(quotes.map((quote) => chainLine(asof, spec.symbol, session.snapshotPrice, quote)));
    onSession();
  }
  await file.end();
  return path;
}

/**
 * Makes the demo world: one file per kind in the open formats, and a chain file per underlying.
 *
 * @param folder is created when it is missing
 * @param onProgress told how many sessions of chains have been written, and of how many
 * @returns the paths, in the order in which they are to be imported
 */
export async function writeDemo(
  folder: string,
  onProgress: (done: number, total: number) => void = () => undefined,
): Promise<string[]> {
  mkdirSync(folder, { recursive: true });
  const days = sessionDays();
  const island = islandMoves(days);
  const paths = new Map(UNDERLYINGS.map((spec) => [spec, playPath(spec, days, island)]));
  const files: string[] = [];
  const table = async (name: string, header: string, lines: string[]) => {
    const path = join(folder, `${name}.csv`);
    const file = new CsvFile(path, header);
    await file.write(lines);
    await file.end();
    files.push(path);
  };
  await table(
    'underlyings',
    'symbol,name,kind,currency,multiplier,exercise,family,family_ratio,calendar,tick',
    UNDERLYINGS.map((spec) =>
      [
        spec.symbol,
        spec.name,
        spec.kind,
        'ICR',
        spec.multiplier,
        spec.exercise,
        spec.family,
        1,
        CALENDAR.id,
        spec.priceTick,
      ].join(','),
    ),
  );
  await table(
    'rates',
    'date,currency,days,rate',
    days.flatMap((day) => RATE_DAYS.map((n) => [day, 'ICR', n, islandRate(day, n / 365).toFixed(6)].join(','))),
  );
  await table(
    'dividends',
    'symbol,ex_date,amount,kind',
    UNDERLYINGS.flatMap((spec) =>
      spec.dividends.map(({ exDate, amount }) => [spec.symbol, exDate, amount, 'cash'].join(',')),
    ),
  );
  await table(
    'events',
    'symbol,start,title,kind',
    UNDERLYINGS.flatMap((spec) =>
      spec.events.map((event) => [spec.symbol, `${event.day}T${event.time}-01:00`, event.title, event.kind].join(',')),
    ),
  );
  await table(
    'bars',
    'symbol,date,open,high,low,close,volume',
    // The last session is not over, so it has no bar yet.
    UNDERLYINGS.flatMap((spec) =>
      paths
        .get(spec)!
        .slice(0, -1)
        .map(({ day, open, high, low, close, volume }) =>
          [spec.symbol, day, money(open), money(high), money(low), money(close), volume].join(','),
        ),
    ),
  );
  let done = 0;
  const total = UNDERLYINGS.length * CLOCK.chainSessions;
  for (const spec of UNDERLYINGS) {
    files.push(await writeChain(folder, spec, paths.get(spec)!, () => onProgress(++done, total)));
  }
  return files;
}

import type { RequestEvent } from '@sveltejs/kit';
import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { ChangeLog, tables, type Queryable } from '../db';

const MOST_BYTES = 96e6;
/** A larger answer would push out too many others. */
const LARGEST = 12e6;
/** Shorter answers are sent as they are. */
const SHORTEST_PACKED = 1400;

/** Stands for all symbols among those that an answer depends on. */
export const ANY_SYMBOL = '*';

const pack = promisify(gzip);

/** An answer as it is sent. */
interface Kept {
  /** Symbols whose change makes it another. */
  symbols: readonly string[];
  etag: string;
  headers: [string, string][];
  bytes: Buffer;
  /** The same compressed, once it is. */
  packed: Buffer | null;
  isPacking: boolean;
}

const takesPacked = ({ request }: RequestEvent) => /\bgzip\b/.test(request.headers.get('accept-encoding') ?? '');

/**
 * Answers that have been encoded, kept as long as nothing has changed of what they were made of. What has changed is asked of the
 * database before each answer, once for all who ask at the same time; the tag of an answer is that of its content, so that
 * whatever changes it changes the tag.
 */
export class KeptAnswers {
  private readonly log = new ChangeLog();
  private readonly kept = new Map<string, Kept>();
  private readonly making = new Map<string, Promise<Kept | Response>>();
  private bytes = 0;
  /** Counted up with every change of a symbol, and of all of them. */
  private readonly ages = new Map<string, number>();
  private age = 0;
  private lenders: Promise<ReadonlyMap<string, readonly string[]>> | null = null;
  private looking: Promise<void> | null = null;
  private next: Promise<void> | null = null;

  constructor(private readonly database: Queryable) {}

  /**
   * The answer to a request, kept or made now.
   *
   * @param symbol on which it depends, and on those that lend it curves
   * @param make a response; one that is no success is not kept
   */
  async answer(event: RequestEvent, symbol: string, make: () => Promise<Response>): Promise<Response> {
    await this.look();
    const key = event.url.pathname + event.url.search;
    const known = this.kept.get(key);
    if (known) {
      // The one asked for last is at the end.
      this.kept.delete(key);
      this.kept.set(key, known);
      this.pack(event, key, known);
      return sent(event, known);
    }
    // Who asks for the same meanwhile waits for the same, unless something has changed since it was begun.
    const place = `${this.age} ${this.ages.get(ANY_SYMBOL) ?? 0} ${key}`;
    const making = this.making.get(place) ?? this.make(key, symbol, make);
    this.making.set(place, making);
    try {
      const made = await making;
      return made instanceof Response ? made.clone() : sent(event, made);
    } finally {
      this.making.delete(place);
    }
  }

  private async make(key: string, symbol: string, make: () => Promise<Response>): Promise<Kept | Response> {
    const ages = new Map(this.ages);
    const { age } = this;
    const [response, lenders] = await Promise.all([make(), this.lendersOf(symbol)]);
    const symbols = [symbol, ...lenders];
    if (response.status !== 200) return response;
    const bytes = Buffer.from(await response.arrayBuffer());
    const etag = `W/"${createHash('sha1').update(bytes).digest('base64url')}"`;
    const kept: Kept = { symbols, etag, headers: [...response.headers], bytes, packed: null, isPacking: false };
    const isOld = age !== this.age || symbols.some((symbol) => ages.get(symbol) !== this.ages.get(symbol));
    if (isOld || bytes.length > LARGEST) return kept;
    this.keep(key, kept);
    return kept;
  }

  /** Compresses an answer once it is asked for again by a client that accepts it; until then it is sent plain. */
  private pack(event: RequestEvent, key: string, kept: Kept): void {
    if (kept.isPacking || kept.bytes.length < SHORTEST_PACKED || !takesPacked(event)) return;
    kept.isPacking = true;
    pack(kept.bytes).then(
      (packed) => {
        if (this.kept.get(key) !== kept) return;
        kept.packed = packed;
        this.bytes += packed.length;
      },
      (error: unknown) => console.error(error),
    );
  }

  /** Symbols that lend curves to one: read of all when the first is asked for, and again when any has changed. */
  private async lendersOf(symbol: string): Promise<readonly string[]> {
    const { symbol: borrower, source } = tables.borrowings;
    this.lenders ??= this.database
      .selectDistinct({ borrower, source })
      .from(tables.borrowings)
      .then((rows) => {
        const lenders = new Map<string, string[]>();
        for (const row of rows) lenders.set(row.borrower, [...(lenders.get(row.borrower) ?? []), row.source]);
        return lenders;
      });
    try {
      return (await this.lenders).get(symbol) ?? [];
    } catch (error) {
      this.lenders = null;
      throw error;
    }
  }

  private keep(key: string, kept: Kept): void {
    this.drop(key);
    this.kept.set(key, kept);
    this.bytes += kept.bytes.length;
    for (const oldest of this.kept.keys()) {
      if (this.bytes <= MOST_BYTES) break;
      this.drop(oldest);
    }
  }

  private drop(key: string): void {
    const kept = this.kept.get(key);
    if (!kept) return;
    this.kept.delete(key);
    this.bytes -= kept.bytes.length + (kept.packed?.length ?? 0);
  }

  /** Reads what has changed up to now. A read under way may have begun too early, so callers share the next one. */
  private look(): Promise<void> {
    if (!this.looking) {
      this.looking = this.takeNote().finally(() => (this.looking = null));
      return this.looking;
    }
    this.next ??= this.looking
      .catch(() => undefined)
      .then(() => {
        this.next = null;
        return this.look();
      });
    return this.next;
  }

  private async takeNote(): Promise<void> {
    const changes = await this.log.look(this.database);
    if (changes?.length === 0) return;
    if (!changes || changes.some(({ what }) => what === 'borrowings')) this.lenders = null;
    const symbols = new Set(changes?.map(({ symbol }) => symbol));
    if (!changes || symbols.has('')) {
      this.age++;
      this.kept.clear();
      this.bytes = 0;
      return;
    }
    for (const symbol of [...symbols, ANY_SYMBOL]) this.ages.set(symbol, (this.ages.get(symbol) ?? 0) + 1);
    for (const [key, kept] of this.kept)
      if (kept.symbols.some((symbol) => symbol === ANY_SYMBOL || symbols.has(symbol))) this.drop(key);
  }
}

function sent(event: RequestEvent, { etag, headers, bytes, packed }: Kept): Response {
  const own = new Headers(headers);
  own.set('etag', etag);
  own.set('cache-control', 'private, no-cache');
  own.set('vary', 'accept-encoding');
  const known = event.request.headers.get('if-none-match')?.split(',') ?? [];
  if (known.some((tag) => tag.trim() === etag || tag.trim() === '*'))
    return new Response(null, { status: 304, headers: own });
  const isPacked = packed !== null && takesPacked(event);
  if (isPacked) own.set('content-encoding', 'gzip');
  const body = isPacked ? packed : bytes;
  own.set('content-length', String(body.length));
  return new Response(new Uint8Array(body.buffer, body.byteOffset, body.length) as Uint8Array<ArrayBuffer>, {
    headers: own,
  });
}

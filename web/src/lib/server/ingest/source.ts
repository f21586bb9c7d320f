import { and, asc, eq, gte, lte, sql } from 'drizzle-orm';
import { createReadStream, openSync, closeSync, readSync, statSync } from 'node:fs';
import { basename } from 'node:path';
import { tables, type Database, type Queryable } from '../db';

/** A file that can be read more than once, from wherever it lies. */
export interface FileSource {
  name: string;
  /** Bytes. */
  size: number;
  /** Reads it from the beginning. */
  stream(): AsyncIterable<Buffer>;
  /** Reads a part; short where the file ends. */
  slice(from: number, to: number): Promise<Buffer>;
}

const CHUNK = 1 << 20;

/** A file of the disk. */
export function diskSource(path: string): FileSource {
  return {
    name: basename(path),
    size: statSync(path).size,
    stream: () => createReadStream(path, { highWaterMark: CHUNK }),
    slice: async (from, to) => {
      const file = openSync(path, 'r');
      try {
        const bytes = Buffer.alloc(Math.max(0, to - from));
        return bytes.subarray(0, readSync(file, bytes, 0, bytes.length, from));
      } finally {
        closeSync(file);
      }
    },
  };
}

/** Bytes that are at hand. */
export function memorySource(name: string, bytes: Buffer): FileSource {
  return {
    name,
    size: bytes.length,
    stream: async function* () {
      for (let at = 0; at < bytes.length; at += CHUNK) yield bytes.subarray(at, at + CHUNK);
    },
    slice: async (from, to) => bytes.subarray(from, to),
  };
}

const { uploads } = tables;

/** A file that comes in, in parts of one size: how it lies in the database. */
export async function* partsOf(chunks: AsyncIterable<Buffer>): AsyncGenerator<{ part: number; bytes: Buffer }> {
  let waiting: Buffer[] = [];
  let length = 0;
  let part = 0;
  for await (const chunk of chunks) {
    waiting.push(chunk);
    length += chunk.length;
    while (length >= CHUNK) {
      const all = Buffer.concat(waiting);
      yield { part: part++, bytes: all.subarray(0, CHUNK) };
      waiting = [all.subarray(CHUNK)];
      length -= CHUNK;
    }
  }
  if (length > 0) yield { part, bytes: Buffer.concat(waiting) };
}

/**
 * Keeps a file that comes in as the upload of an import, part by part, so that nothing is held open while bytes are waited for.
 *
 * @param onPart told how many bytes are kept; it may throw to stop there
 */
export async function storeUpload(
  database: Queryable,
  importId: number,
  chunks: AsyncIterable<Buffer>,
  onPart: (size: number) => Promise<void>,
): Promise<void> {
  let size = 0;
  for await (const { part, bytes } of partsOf(chunks)) {
    await database.insert(uploads).values({ importId, part, bytes });
    size += bytes.length;
    await onPart(size);
  }
}

/** The file that was uploaded for an import, or null where it is not kept any longer. */
export async function uploadSource(database: Database, importId: number, name: string): Promise<FileSource | null> {
  const [found] = await database
    .select({ parts: sql<number>`count(*)::int`, size: sql<number>`coalesce(sum(length(bytes)), 0)::float8` })
    .from(uploads)
    .where(eq(uploads.importId, importId));
  if (!found || found.parts === 0) return null;
  const parts = (from: number, to: number) =>
    database
      .select({ bytes: uploads.bytes })
      .from(uploads)
      .where(and(eq(uploads.importId, importId), gte(uploads.part, from), lte(uploads.part, to)))
      .orderBy(asc(uploads.part));
  return {
    name,
    size: found.size,
    stream: async function* () {
      for (let part = 0; part < found.parts; part++) for (const { bytes } of await parts(part, part)) yield bytes;
    },
    slice: async (from, to) => {
      if (to <= from) return Buffer.alloc(0);
      const first = Math.floor(from / CHUNK);
      const rows = await parts(first, Math.floor((to - 1) / CHUNK));
      return Buffer.concat(rows.map(({ bytes }) => bytes)).subarray(from - first * CHUNK, to - first * CHUNK);
    },
  };
}

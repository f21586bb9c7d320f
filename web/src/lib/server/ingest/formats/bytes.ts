import { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import type { FileSource } from '../source';
import { TableError } from '../table';

const HEAD = 1 << 16;

/** Whether bytes begin so. */
function beginsWith(bytes: Buffer, ...first: number[]): boolean {
  return first.every((byte, i) => bytes[i] === byte);
}

/** Bytes without packing (gzip), texts of UTF-16 as UTF-8. */
export async function* plainBytes(source: FileSource): AsyncGenerator<Buffer> {
  let decoder: ReturnType<typeof utf16Decoder> | undefined;
  for await (const chunk of unpacked(source)) {
    decoder ??= utf16Decoder(chunk);
    yield decoder ? Buffer.from(decoder.decode(chunk, { stream: true })) : chunk;
  }
  if (decoder) yield Buffer.from(decoder.decode());
}

function utf16Decoder(first: Buffer) {
  if (beginsWith(first, 0xff, 0xfe)) return new TextDecoder('utf-16le');
  if (beginsWith(first, 0xfe, 0xff)) return new TextDecoder('utf-16be');
  return null;
}

async function* unpacked(source: FileSource): AsyncGenerator<Buffer> {
  const isPacked = beginsWith(await source.slice(0, 2), 0x1f, 0x8b);
  if (!isPacked) {
    yield* source.stream();
    return;
  }
  const gunzip = createGunzip({ chunkSize: HEAD });
  const packed = Readable.from(source.stream());
  packed.on('error', (error) => gunzip.destroy(error));
  try {
    for await (const chunk of packed.pipe(gunzip)) yield chunk as Buffer;
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    if (code?.startsWith('Z_')) throw new TableError(`the packed file (gzip) is damaged: ${message}`);
    throw error;
  } finally {
    packed.destroy();
    gunzip.destroy();
  }
}

/** The beginning of the unpacked bytes. */
export async function headOf(source: FileSource, signal?: AbortSignal): Promise<Buffer> {
  const chunks: Buffer[] = [];
  let length = 0;
  for await (const chunk of plainBytes(source)) {
    signal?.throwIfAborted();
    chunks.push(chunk.subarray(0, HEAD));
    length += chunk.length;
    if (length >= HEAD) break;
  }
  return Buffer.concat(chunks).subarray(0, HEAD);
}

export type FileFormat = 'csv' | 'json' | 'parquet' | 'xlsx' | 'ics';

/** The format of a file, by its first bytes. */
export function formatOf(head: Buffer): FileFormat {
  if (beginsWith(head, 0x50, 0x4b, 3, 4)) return 'xlsx';
  if (head.toString('latin1', 0, 4) === 'PAR1') return 'parquet';
  const text = head
    .toString('utf8', 0, 1000)
    .replace(/^\uFEFF/, '')
    .trimStart();
  if (text.startsWith('{') || text.startsWith('[')) return 'json';
  return /^BEGIN:VCALENDAR/i.test(text) ? 'ics' : 'csv';
}

import type { RequestEvent } from '@sveltejs/kit';
import type { z } from 'zod';
import { ApiError, invalidInput, type FieldError } from './problem';

/** Bytes of a body of JSON at most, and of one that holds a batch or a table. */
const SMALL_BODY = 2_000_000;
export const LARGE_BODY = 32_000_000;

/** A body is given up when it stands still for this long, or when it is slower than this after a grace period. */
const IDLE_MS = 30_000;
const GRACE_MS = 20_000;
const LEAST_BYTES_PER_SECOND = 2000;

const tooSlow = (detail: string) => new ApiError(408, 'Too slow', detail);

/**
 * The body of a request as it comes in.
 *
 * @param mostBytes how much of it is read
 * @throws ApiError 413 over that, 408 where it comes too slowly; what the connection says where it breaks off
 */
export async function* bodyOf(request: Request, mostBytes = Infinity): AsyncGenerator<Buffer> {
  const tooLarge = () =>
    new ApiError(413, 'Too large', `the body has more than ${mostBytes / 1e6} MB, which is the most that is read here`);
  if (Number(request.headers.get('content-length')) > mostBytes) throw tooLarge();
  const reader = request.body?.getReader();
  if (!reader) return;
  const begun = performance.now();
  let bytes = 0;
  try {
    for (;;) {
      const { done, value } = await within(reader.read(), IDLE_MS, `nothing of the body came for ${IDLE_MS / 1000} s`);
      if (done) return;
      bytes += value.length;
      if (bytes > mostBytes) throw tooLarge();
      const seconds = (performance.now() - begun) / 1000;
      if (seconds > GRACE_MS / 1000 && bytes < LEAST_BYTES_PER_SECOND * seconds)
        throw tooSlow(`the body came in at under ${LEAST_BYTES_PER_SECOND / 1000} kB a second`);
      yield Buffer.from(value.buffer, value.byteOffset, value.length);
    }
  } finally {
    // Not cancelled: that would end the connection before it has been told why.
    reader.releaseLock();
  }
}

async function within<T>(waited: Promise<T>, milliseconds: number, otherwise: string): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(tooSlow(otherwise)), milliseconds);
  });
  try {
    return await Promise.race([waited, late]);
  } finally {
    clearTimeout(timer);
    // The promise that lost the race may still reject; nobody awaits it.
    waited.catch(() => undefined);
  }
}

/** The whole body of a request. @param mostBytes of it */
export async function readBytes(request: Request, mostBytes = SMALL_BODY): Promise<Buffer> {
  const chunks: Buffer[] = [];
  for await (const chunk of bodyOf(request, mostBytes)) chunks.push(chunk);
  return Buffer.concat(chunks);
}

/** The body of a request as its schema describes it. */
export async function readBody<T extends z.ZodType>(event: RequestEvent, schema: T): Promise<z.infer<T>> {
  return parseBody(await readBytes(event.request), schema);
}

/** A body that has come in, as its schema describes it. @throws ApiError with the place of each fault */
export function parseBody<T extends z.ZodType>(bytes: Buffer, schema: T): z.infer<T> {
  const text = bytes.toString('utf8');
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch {
    throw new ApiError(400, 'Invalid input', 'the body is not JSON', {
      errors: [{ path: '', message: 'the body is not JSON' }],
    });
  }
  // Only as escapes can JSON contain characters that are not valid text.
  if (ESCAPED.test(text)) JSON.parse(text, refuseBroken);
  const errors = tooMany(schema, body);
  if (errors.length > 0) {
    const [{ path, message }] = errors as [FieldError];
    throw new ApiError(400, 'Invalid input', `${path}: ${message}`, { errors });
  }
  const parsed = schema.safeParse(body);
  if (!parsed.success) throw invalidInput(parsed.error);
  return parsed.data;
}

const ESCAPED = /\\u(?:0000|d[89a-f])/i;

function refuseBroken(name: string, value: unknown): unknown {
  for (const one of [name, value]) if (typeof one === 'string') refuseBrokenText(name, one);
  return value;
}

/** Refuses what neither the database nor a file can store: NUL characters and lone surrogates. */
export function refuseBrokenText(path: string, text: string): void {
  if (!text.includes('\0') && text.isWellFormed()) return;
  const message = 'has a character that is none (U+0000, or half of a pair)';
  const place = path.replaceAll('\0', '').toWellFormed();
  throw new ApiError(400, 'Invalid input', `${place}: ${message}`, { errors: [{ path: place, message }] });
}

/** The parts of a schema's definition that say how long its lists may be. */
interface Described {
  _zod: {
    def: {
      shape?: Record<string, Described>;
      innerType?: Described;
      in?: Described;
      checks?: readonly { _zod: { def: { check: string; maximum?: number } } }[];
    };
  };
}

/** Lists that are longer than their schema allows, told before anything in them is looked at. */
export function tooMany(schema: z.ZodType, value: unknown): FieldError[] {
  const look = (described: Described, at: unknown, path: string[]): FieldError[] => {
    const { def } = described._zod;
    if (Array.isArray(at)) {
      const limits = (def.checks ?? []).map(({ _zod }) =>
        _zod.def.check === 'max_length' ? _zod.def.maximum! : Infinity,
      );
      const most = Math.min(...limits);
      if (at.length > most)
        return [{ path: path.join('.'), message: `Too big: expected array to have <=${most} items` }];
    }
    const inner = def.innerType ?? def.in;
    if (inner) return look(inner, at, path);
    if (!def.shape || typeof at !== 'object' || at === null) return [];
    return Object.entries(def.shape).flatMap(([name, part]) =>
      look(part, (at as Record<string, unknown>)[name], [...path, name]),
    );
  };
  return look(schema as unknown as Described, value, []);
}

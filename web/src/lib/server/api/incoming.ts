import { Busboy } from '@fastify/busboy';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { bodyOf } from './body';
import { ApiError } from './problem';

/** A file that comes in. Its bytes can be read once; where they break off the reading fails. */
export interface IncomingFile {
  name: string | null;
  bytes: AsyncIterable<Buffer>;
}

const malformed = (detail: string) => new ApiError(400, 'Invalid input', detail);

/** The file of a request: the body itself, or the first file of a form. */
export async function incomingFile(request: Request): Promise<IncomingFile> {
  if (!request.body) throw malformed('there is no body: send a file with its Content-Type, such as text/csv');
  const type = request.headers.get('content-type') ?? '';
  const body = bodyOf(request);
  return type.toLowerCase().startsWith('multipart/') ? fileOfForm(body, type) : { name: null, bytes: body };
}

function formOf(type: string) {
  try {
    return new Busboy({
      headers: { 'content-type': type },
      limits: { files: 1, fields: 20, parts: 30, headerPairs: 50 },
    });
  } catch (error) {
    throw malformed(`the form cannot be read: ${(error as Error).message}`);
  }
}

async function fileOfForm(body: AsyncIterable<Buffer>, type: string): Promise<IncomingFile> {
  const form = formOf(type);
  let failure: Error | null = null;
  let broken: unknown = null;
  async function* watched() {
    try {
      yield* body;
    } catch (error) {
      broken = error;
      throw error;
    }
  }
  /** What is wrong with the form, unless it is the request that broke off or was refused. */
  const told = (error: Error) => broken ?? malformed(`the form cannot be read: ${error.message}`);
  const found = new Promise<{ name: string | null; file: Readable }>((resolve) => {
    form.on('file', (_field, file, name) => {
      // Errors reach the reader of the stream; until there is one they must not end the process.
      file.on('error', (error) => (failure ??= error));
      resolve({ name: name || null, file });
    });
  });
  // A body that breaks off ends the form, and a form that cannot be read ends the body.
  const fed = pipeline(Readable.from(watched()), form).catch((error: unknown) => {
    failure ??= error instanceof Error ? error : new Error(String(error));
  });
  const first = await Promise.race([found, fed.then(() => null)]);
  if (!first) throw failure ? told(failure) : malformed('the form holds no file');
  const { name, file } = first;
  async function* bytes(): AsyncGenerator<Buffer> {
    try {
      void fed.then(() => failure && file.destroy(failure));
      for await (const chunk of file) yield chunk as Buffer;
    } catch (error) {
      throw told(failure ?? (error as Error));
    }
    await fed;
    if (failure) throw told(failure);
  }
  return { name, bytes: bytes() };
}

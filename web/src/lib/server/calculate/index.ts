/** Calculate: prices and vols of batches, away from the thread that answers. */
import { availableParallelism } from 'node:os';
import { Readable } from 'node:stream';
import type { RequestEvent } from '@sveltejs/kit';
import type { Piscina } from 'piscina';
import { LARGE_BODY, readBytes } from '../api/body';
import { jsonAnswer } from '../api/endpoint';
import { unlessRefused, type Refusal } from '../api/refusal';
import { openPool } from '../threads';
import type { CalculateTask } from './calculate.thread';
import { calculateSlice, prepare, type Calculation, type Prepared } from './work';

/** Batches up to this size are computed here: handing them to a thread would take longer. */
const SMALL_BYTES = 50_000;
const SMALL_SECONDS = 0.005;
/** A thread that has worked for longer is ended when its caller has gone; otherwise its slice runs to the end. */
const LONG_SECONDS = 1;
const THREADS = Math.max(2, availableParallelism() - 1);
const MOST_MEGABYTES = 600;

let opened: Piscina | null = null;
const pool = () => (opened ??= openPool('calculate/calculate', THREADS, MOST_MEGABYTES));

const inThread = <Result>(task: CalculateTask, signal?: AbortSignal): Promise<Result> => pool().run(task, { signal });

/**
 * Answers a batch of contracts. Of each request as many slices as there are threads are worked on at a time, so that callers
 * take turns; what is left of one is not done when its caller leaves.
 */
export async function calculate(event: RequestEvent, kind: Calculation): Promise<Response> {
  const { signal } = event.request;
  const body = await readBytes(event.request, LARGE_BODY);
  const { slices, seconds } = body.length <= SMALL_BYTES ? prepare(kind, body) : await prepareApart(kind, body, signal);
  if (seconds <= SMALL_SECONDS) return answerOf(slices.map((slice) => calculateSlice(kind, slice)));
  const results: Uint8Array[] = [];
  const ends = seconds > LONG_SECONDS * slices.length ? signal : undefined;
  let next = 0;
  const workOn = async () => {
    while (next < slices.length) {
      const at = next++;
      signal.throwIfAborted();
      results[at] = await inThread<Uint8Array>({ kind, slice: slices[at]! }, ends);
    }
  };
  await Promise.all(Array.from({ length: THREADS }, workOn));
  return answerOf(results);
}

/** A surface of given vols, fitted in a thread; ended with the request that wants it. */
export async function fitSurfaceApart({ request }: RequestEvent): Promise<Response> {
  const body = await readBytes(request, LARGE_BODY);
  return jsonAnswer(unlessRefused(await inThread<Uint8Array | Refusal>({ kind: 'surface', body }, request.signal)));
}

async function prepareApart(kind: Calculation, body: Buffer, signal: AbortSignal): Promise<Prepared> {
  return unlessRefused(await inThread<Prepared | Refusal>({ kind, body }, signal));
}

function answerOf(results: Uint8Array[]): Response {
  const parts = results.flatMap((part, i) => (i === 0 ? [part] : [Buffer.from(','), part]));
  const all = Readable.from([Buffer.from('{"results":['), ...parts, Buffer.from(']}')]);
  return new Response(Readable.toWeb(all) as ReadableStream, { headers: { 'content-type': 'application/json' } });
}

import type { z } from 'zod';
import type { schemas } from '$lib/api';
import * as api from '$lib/api/finder/endpoints';
import { csvAnswer, eventsAnswer, jsonAnswer } from '$lib/server/api';
import { finder } from '$lib/server/database';
import { FinderError, type FinderBody } from '$lib/server/finder';
import { handle } from '$lib/server/handle';
import { orRefused } from './refused';

type Answer = z.infer<typeof schemas.FinderResponse>;

const decoded = (bytes: Uint8Array) => JSON.parse(new TextDecoder().decode(bytes)) as Answer;

/** A row as a table has it: its legs in words, and no field within another. */
function flat({ legs, shares: _, sketch: __, ...row }: Answer['rows'][number]): Record<string, unknown> {
  const into: Record<string, unknown> = { legs: legs.map(legWords).join(', ') };
  const fill = (fields: object, head: string) => {
    for (const [name, value] of Object.entries(fields) as [string, unknown][])
      if (typeof value === 'object' && value !== null) fill(value, `${head}${name}.`);
      else into[`${head}${name}`] = value;
  };
  fill(row, '');
  return into;
}

function legWords({ quantity, expiry, settlement, strike, side, underlying }: Answer['rows'][number]['legs'][number]) {
  const size = quantity > 0 ? `+${quantity}` : String(quantity);
  return underlying ? `${size} underlying` : `${size} ${expiry}${settlement === 'am' ? 'am' : ''} ${strike} ${side}`;
}

/** Events of what is found on the way: progress, rows as they are known, the answer. */
function events(body: FinderBody): Response {
  const ended = new AbortController();
  const text = new TextEncoder();
  return eventsAnswer(
    new ReadableStream<Uint8Array>({
      async start(controller) {
        const send = (event: string, data: string | Uint8Array) => {
          if (ended.signal.aborted) return;
          const words = typeof data === 'string' ? data : new TextDecoder().decode(data);
          controller.enqueue(text.encode(`event: ${event}\ndata: ${words}\n\n`));
        };
        try {
          const bytes = await finder().find(body, ended.signal, {
            progress: (progress) => send('progress', JSON.stringify(progress)),
            rows: (rows) => send('rows', rows),
          });
          send('found', bytes);
        } catch (error) {
          const words = error instanceof FinderError ? error.message : 'the server failed; its log says why';
          if (!ended.signal.aborted && !(error instanceof FinderError)) console.error(error);
          send('problem', JSON.stringify(words));
        }
        if (!ended.signal.aborted) controller.close();
      },
      cancel: () => ended.abort(),
    }),
  );
}

export const POST = handle(api.find, async ({ body, query, event }) => {
  const accepted = event.request.headers.get('accept') ?? '';
  if (accepted.includes('text/event-stream')) return events(body);
  const bytes = await orRefused(() => finder().find(body, event.request.signal));
  if (query.format === 'csv') {
    const rows = decoded(bytes).rows.map(flat);
    return csvAnswer('finder', Object.keys(rows[0] ?? { symbol: '' }), rows);
  }
  if (!accepted.includes('application/x-ndjson')) return jsonAnswer(bytes);
  const lines = decoded(bytes).rows.map((row) => `${JSON.stringify(row)}\n`);
  return new Response(lines.join(''), { headers: { 'content-type': 'application/x-ndjson' } });
});

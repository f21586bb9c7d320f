import { MEASURE_KEYS, orNaN, type FoundLeg, type FoundRow, type FinderMeasure } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { respond } from '$lib/api/call';
import type { FinderRequest } from './asked';

type Answer = z.output<typeof schemas.FinderResponse>;

/** What was found over many underlyings, or so far. */
export type FoundOverMany = Omit<Answer, 'rows'> & { rows: FoundRow[] };

/** The events of a stream, as they come. */
async function* eventsOf(stream: ReadableStream<Uint8Array>): AsyncGenerator<{ event: string; data: string }> {
  const reader = stream.pipeThrough(new TextDecoderStream() as ReadableWritablePair<string, Uint8Array>).getReader();
  let text = '';
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    text += value;
    for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
      const [head = '', data = ''] = text.slice(0, end).split('\n');
      text = text.slice(end + 2);
      yield { event: head.replace(/^event: /, ''), data: data.replace(/^data: /, '') };
    }
  }
}

/** A number of a row by its path. */
function measureIn(row: object, key: FinderMeasure): number {
  let at: unknown = row;
  for (const part of key.split('.')) at = (at as Record<string, unknown>)[part];
  return orNaN(at as number | null);
}

/** A row of the API as the core has it. */
export function rowOfAnswer({ legs, shares, sketch, unlimited, ...row }: Answer['rows'][number]): FoundRow {
  const measures = Object.fromEntries(MEASURE_KEYS.map((key) => [key, measureIn(row, key)])) as Record<
    FinderMeasure,
    number
  >;
  if (unlimited.profit) measures.maxProfit = measures.rewardToRisk = measures.returnOnRisk = Infinity;
  if (unlimited.loss) measures.maxLoss = Infinity;
  return {
    ...{ symbol: row.symbol, multiplier: row.multiplier, price: row.price, kind: row.kind, measures },
    legs: legs.map((leg) => {
      const known = {
        ...{ quantity: leg.quantity, mid: orNaN(leg.mid), vol: orNaN(leg.vol) },
        ...{ openInterest: orNaN(leg.openInterest), volume: orNaN(leg.volume) },
      };
      const { expiry, settlement, strike, side } = leg;
      return (
        leg.underlying ? { ...known, underlying: true } : { ...known, expiry, settlement, strike, side }
      ) as FoundLeg;
    }),
    ...{ score: row.score, shares: shares.map(({ share }) => share) },
    sketch: sketch ?? { prices: [], profits: [], forward: NaN, dots: [] },
    ...{ became: orNaN(row.became), settled: orNaN(row.settled), ownVol: orNaN(row.ownVol) },
    independent: row.independent,
  };
}

/**
 * Looks through many underlyings at the server; whoever does not wait any more ends it.
 *
 * @param progress how many have been looked through
 * @param rows what is known so far
 * @throws what cannot be looked for, in words
 */
export async function findOverMany(
  request: FinderRequest,
  signal: AbortSignal,
  progress: (done: number, of: number) => void,
  rows: (found: FoundOverMany) => void,
): Promise<FoundOverMany> {
  const response = await respond('POST /finder', { body: request, signal, accept: 'text/event-stream' });
  for await (const { event, data } of eventsOf(response.body!)) {
    if (event === 'problem') throw new Error(JSON.parse(data) as string);
    if (event === 'progress') {
      const { done, of } = JSON.parse(data) as { done: number; of: number };
      progress(done, of);
      continue;
    }
    const answer = JSON.parse(data) as Answer;
    const found = { ...answer, rows: answer.rows.map(rowOfAnswer) };
    if (event === 'found') return found;
    rows(found);
  }
  throw new Error('The server ended before it was done.');
}

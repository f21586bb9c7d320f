import { candidateFormula } from '@umwelt/core';
import { call } from '$lib/api/call';
import { measureNamed } from '$lib/columns';

const known = new Map<string, Promise<number | null>>();
/** Answers that are kept: of some conditions at some moments. */
const MOST_KNOWN = 200;

/** What a condition asks of an underlying beside its candidates, as the Universe works it out; kept while data stay the same. */
export function outsideOf(source: string, symbol: string, asof: string, edition: number): Promise<number[]> {
  const { outside } = candidateFormula(source, measureNamed);
  return Promise.all(
    outside.map(async (part) => {
      const key = `${symbol} ${asof} ${edition} ${part}`;
      const found =
        known.get(key) ??
        call('POST /screen', { body: { asof, columns: [part], symbols: [symbol] } }).then(
          ({ rows }) => rows[0]?.columns[0] ?? null,
        );
      known.set(key, found);
      found.catch(() => known.delete(key));
      if (known.size > MOST_KNOWN) known.delete(known.keys().next().value!);
      return (await found) ?? NaN;
    }),
  );
}

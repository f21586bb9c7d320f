import { publishedIndex, publishedStrip } from '@umwelt/core';
import { endpoint, readBody, schemas } from '$lib/server/api';

const NONE = {
  error: { code: 'too-few', message: 'no strike has bids on both sides, or fewer than two strikes take part' },
};

export const POST = endpoint(async (event) => {
  const { targetDays, terms } = await readBody(event, schemas.VarianceIndexRequest);
  const strips = terms.map(({ strikes, ...term }) =>
    publishedStrip({
      ...term,
      strikes: strikes.map(({ strike, callBid = null, callAsk = null, putBid = null, putAsk = null }) => ({
        ...{ strike, callBid, callAsk, putBid, putAsk },
      })),
    }),
  );
  const timed = strips.flatMap((strip, i) => (strip ? [{ minutes: terms[i]!.minutes, variance: strip.variance }] : []));
  const [near, far] = timed.toSorted((a, b) => a.minutes - b.minutes);
  return {
    index: near && far ? publishedIndex([near, far], targetDays) : null,
    terms: strips.map((strip) => strip ?? NONE),
  };
});

import { publishedIndex, publishedStrip } from '@umwelt/core';
import * as api from '$lib/api/calculators/endpoints';
import { handle } from '$lib/server/handle';

const NONE = {
  error: { code: 'too-few', message: 'no strike has bids on both sides, or fewer than two strikes take part' },
};

export const POST = handle(api.varianceIndex, async ({ body }) => {
  const { targetDays, terms } = body;
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

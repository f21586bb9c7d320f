import { maxPain } from '@umwelt/core';
import { endpoint, readBody, schemas } from '$lib/server/api';

export const POST = endpoint(async (event) => {
  const { strikes, multiplier } = await readBody(event, schemas.MaxPainRequest);
  const open = strikes.map(({ strike, callOpenInterest, putOpenInterest }) => ({
    strike,
    callOpenInterest: callOpenInterest ?? 0,
    putOpenInterest: putOpenInterest ?? 0,
  }));
  return maxPain(open, multiplier);
});

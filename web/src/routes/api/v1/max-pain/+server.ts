import { maxPain } from '@umwelt/core';
import * as api from '$lib/api/calculators/endpoints';
import { handle } from '$lib/server/handle';

export const POST = handle(api.maxPain, async ({ body }) => {
  const { strikes, multiplier } = body;
  const open = strikes.map(({ strike, callOpenInterest, putOpenInterest }) => ({
    strike,
    callOpenInterest: callOpenInterest ?? 0,
    putOpenInterest: putOpenInterest ?? 0,
  }));
  return maxPain(open, multiplier);
});

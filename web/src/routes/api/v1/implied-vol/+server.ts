import { impliedVol, type Reason } from '@umwelt/core';
import { endpoint, inTurns, LARGE_BODY, readBody, schemas } from '$lib/server/api';

const MESSAGES: Partial<Record<Reason, string>> = {
  'below-intrinsic': 'the price is at or under its lower bound, so no vol gives it',
  'above-maximum': 'the price is at or over its upper bound, so no vol gives it',
  expired: 'there is no time left to expiry',
};

export const POST = endpoint(async (event) => {
  const { contracts } = await readBody(event, schemas.ImpliedVolRequest, LARGE_BODY);
  const results = await inTurns(event.request.signal, contracts, (contract) => {
    const result = impliedVol(contract);
    if ('vol' in result) return result;
    return { error: { code: result.reason, message: MESSAGES[result.reason] ?? result.reason } };
  });
  return { results };
});

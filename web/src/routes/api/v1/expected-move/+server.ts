import { deviationMove, straddleUsed } from '@umwelt/core';
import { endpoint, readBody, schemas } from '$lib/server/api';

export const POST = endpoint(async (event) => {
  const { forward, years, atmVol, straddles = [], choice } = await readBody(event, schemas.ExpectedMoveRequest);
  const quotes = straddles
    .map(({ strike, callMid, putMid }) => ({ strike, callMid: callMid ?? NaN, putMid: putMid ?? NaN }))
    .sort((a, b) => a.strike - b.strike);
  const found = straddleUsed(quotes, forward, choice);
  const levels = (move: number) => ({ move, low: forward - move, high: forward + move });
  return {
    straddle: found && { ...levels(found.move), used: found.parts },
    deviation: atmVol === undefined ? null : levels(deviationMove(forward, atmVol, years)),
    missing: {
      ...(!found && { straddle: straddles.length > 0 ? 'no strike has both mids' : 'no straddles were given' }),
      ...(atmVol === undefined && { deviation: 'no atmVol was given' }),
    },
  };
});

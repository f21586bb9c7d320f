import { deviationMove, quotedStraddle, straddleUsed } from '@umwelt/core';
import * as api from '$lib/api/calculators/endpoints';
import { handle } from '$lib/server/handle';

export const POST = handle(api.expectedMove, async ({ body }) => {
  const { forward, years, atmVol, straddles = [], choice, rate } = body;
  const terms = { forward, years, discount: Math.exp(-rate * years) };
  const quotes = straddles
    .map(({ strike, callMid, putMid }) => quotedStraddle(strike, callMid ?? NaN, putMid ?? NaN, terms))
    .sort((a, b) => a.strike - b.strike);
  const found = straddleUsed(quotes, terms, choice);
  const levels = (move: number) => ({ move, low: forward - move, high: forward + move });
  const none = choice === 'forward' ? 'no strike has a mid with a vol' : 'no strike has both mids';
  return {
    straddle: found && { ...levels(found.move), vol: found.vol, used: found.parts },
    deviation: atmVol === undefined ? null : levels(deviationMove(forward, atmVol, years)),
    missing: {
      ...(!found && { straddle: straddles.length > 0 ? none : 'no straddles were given' }),
      ...(atmVol === undefined && { deviation: 'no atmVol was given' }),
    },
  };
});

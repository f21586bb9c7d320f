import { curveLaw, fitCurve, lognormalLaw, oddsUnder, touchProbability, zoneOdds, type Law } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import * as api from '$lib/api/calculators/endpoints';
import { ApiError } from '$lib/server/api';
import { handle } from '$lib/server/handle';

type Asked = z.infer<typeof schemas.ProbabilitiesRequest>;

function lawOf({ slice, vol = NaN, years, forward }: Asked): Law {
  if (!slice) return lognormalLaw(vol * Math.sqrt(years));
  const { strikes, vols } = slice;
  const points = {
    logMoneyness: strikes.map((strike) => Math.log(strike / forward)),
    vol: vols,
    halfSpread: vols.map(() => 0),
    count: strikes.length,
  };
  const fit = fitCurve(points, years, forward);
  if (!fit) throw new ApiError(422, 'No curve', 'slice: no curve can be fitted to these strikes and vols');
  return curveLaw(fit.curve);
}

/** Odds to reach a level from the spot, or without drift from the forward. */
function touchOf({ slice, vol = NaN, years, forward, spot = forward }: Asked, level: number): number {
  if (slice) return NaN;
  // No lognormal price comes to nothing.
  if (level <= 0) return 0;
  return touchProbability(spot, level, years, years > 0 ? Math.log(forward / spot) / years : 0, vol);
}

export const POST = handle(api.probabilities, async ({ body }) => {
  const asked = body;
  const law = lawOf(asked);
  const levels = asked.levels.map((level) => {
    const below = oddsUnder(law, asked.forward, level);
    return { level, above: 1 - below, below, touch: touchOf(asked, level) };
  });
  return { levels, zones: zoneOdds(law, asked.forward, asked.levels) };
});

import { evaluateGiven, usualDays, usualPrices, type GivenLeg } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import * as api from '$lib/api/structures/endpoints';
import { handle } from '$lib/server/handle';

type Asked = z.infer<typeof schemas.EvaluateRequest>;

function legOf(leg: Asked['legs'][number], { vol = NaN, volShift }: Asked): GivenLeg {
  if (leg.kind === 'underlying') return leg;
  const { side, vol: own = vol, ...terms } = leg;
  return { ...terms, sign: side === 'call' ? 1 : -1, vol: Math.max(0, own + volShift) };
}

const finiteOrNull = (value: number) => (Number.isFinite(value) ? value : null);

export const POST = handle(api.evaluateStructure, ({ body }) => {
  const { spot, rate, yield: carryYield, multiplier, vol } = body;
  const structure = { spot, rate, yield: carryYield, multiplier, vol, legs: body.legs.map((leg) => legOf(leg, body)) };
  const prices = body.prices ? Float64Array.from(body.prices) : usualPrices(structure);
  const { profile, outcome, ...told } = evaluateGiven(structure, prices, body.afterDays ?? usualDays(structure));
  const { maxProfit, maxLoss, breakEvens, gains } = profile;
  const { profit, ...moments } = outcome;
  return {
    ...told,
    ...moments,
    maxProfit: finiteOrNull(maxProfit),
    maxLoss: finiteOrNull(maxLoss),
    unlimited: { profit: maxProfit === Infinity, loss: maxLoss === Infinity },
    breakEvens,
    gains: gains.map(({ from, to }) => ({ from, to: finiteOrNull(to) })),
    probabilityOfProfit: profit,
  };
});

/** What legs come to: with their terms given, and on a market. */
import { BASES, DYNAMICS, VOL_SCALES } from '@umwelt/core';
import { z } from 'zod';
import { MOST_LEGS } from '../limits';
import { day, moment, number, orNull, positive, settlement, side, symbol, unsaid } from '../shared';

const MOST_PRICES = 2000;

const MOST_DATES = 60;

/** Of all curves together. */
const MOST_POINTS = 20_000;

const MOST_YEARS = 100;

/** What a position may hold of anything. */
const held = number.min(-1e9).max(1e9);

const GivenOption = z.object({
  kind: z.literal('option'),
  side,
  strike: positive,
  years: number.min(0).max(MOST_YEARS).describe('to its expiry, ACT/365F'),
  vol: number.min(0).max(100).optional().describe('its own, a decimal; the vol of the request unless given'),
  quantity: held.describe('signed: bought is plus'),
  entry: held.describe('price of one unit that it was entered at'),
});

const GivenUnderlying = z.object({
  kind: z.literal('underlying'),
  quantity: held.describe('in its own units, signed'),
  entry: held.describe('price that it was entered at'),
});

const shiftedVol = number.min(-100).max(100);

export const EvaluateRequest = z
  .object({
    spot: positive,
    rate: number.min(-10).max(10).describe('continuously compounded, decimal per year'),
    yield: number.min(-10).max(10).default(0),
    multiplier: positive.describe('of the options; the underlying counts in its own units'),
    vol: number
      .min(0)
      .max(100)
      .optional()
      .describe('of the odds; the mean vol of the options that expire first unless given'),
    legs: z
      .array(z.discriminatedUnion('kind', [GivenOption, GivenUnderlying]))
      .min(1)
      .max(MOST_LEGS),
    prices: z.array(positive).min(1).max(MOST_PRICES).optional().describe('of the curves; 81 within three deviations'),
    afterDays: z
      .array(number.min(0).max(MOST_YEARS * 365))
      .min(1)
      .max(MOST_DATES)
      .optional()
      .describe('dates of the curves, calendar days from now; now, two dates at thirds, and the first expiry'),
    volShift: shiftedVol.default(0).describe('added to the vol of each option, a decimal; none falls under 0'),
  })
  .superRefine(({ legs, vol, prices, afterDays }, context) => {
    const fault = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
    legs.forEach((leg, i) => {
      if (leg.kind === 'option' && leg.vol === undefined && vol === undefined)
        fault(['legs', i, 'vol'], 'an option needs a vol, its own or that of the request');
    });
    const points = (prices?.length ?? 0) * (afterDays?.length ?? 0);
    if (points > MOST_POINTS) fault(['prices'], `${points} points of curves; at most ${MOST_POINTS}`);
  })
  .meta({ id: 'EvaluateRequest' });

const ProfitPoint = z.object({
  price: number,
  pnl: number,
  delta: orNull,
  gamma: orNull,
  theta: orNull,
  vega: orNull,
});

export const EvaluateResponse = z
  .object({
    entry: number.describe('paid for all of it; negative where money was taken in'),
    value: number.describe('what it is worth now'),
    horizonDays: orNull.describe('until the first option expires; null without options'),
    maxProfit: orNull.describe('at the horizon; null where there is no end to it'),
    maxLoss: orNull.describe('positive; null where there is no end to it'),
    unlimited: z.object({ profit: z.boolean(), loss: z.boolean() }),
    breakEvens: z.array(number),
    gains: z
      .array(z.object({ from: number, to: orNull }))
      .describe('between which prices it gains; null where there is no end to it'),
    probabilityOfProfit: orNull.describe('at the horizon; null without options'),
    expected: orNull.describe('mean profit at the horizon'),
    deviation: orNull.describe('its standard deviation'),
    worst5: orNull.describe('mean of the worst twentieth'),
    greeks: z.object({
      delta: orNull,
      gamma: orNull,
      theta: orNull.describe('per calendar day'),
      vega: orNull.describe('per vol point'),
      rho: orNull.describe('per percentage point'),
      vanna: orNull,
      volga: orNull,
      charm: orNull,
    }),
    curves: z.array(z.object({ afterDays: number, points: z.array(ProfitPoint) })),
  })
  .meta({ id: 'Evaluation' });

/** Of all curves on a market together, for each leg: American contracts take longer. */
const MOST_LEG_POINTS = 10_000;

const MarketLeg = z
  .object({
    underlying: z.literal(true).optional().describe('the underlying itself; else an option'),
    symbol: symbol.optional().describe('that of the underlying unless given; another delivery of its root'),
    expiry: day.optional(),
    settlement: unsaid,
    strike: number.optional(),
    side: side.optional(),
    quantity: held.describe('signed: contracts, of the underlying its own units'),
    entry: held.optional().describe('price of one unit that it was entered at; by the fill unless given'),
  })
  .superRefine((leg, context) => {
    if (leg.underlying) return;
    for (const name of ['expiry', 'strike', 'side'] as const) {
      if (leg[name] !== undefined) continue;
      context.addIssue({
        code: 'custom',
        path: [name],
        message: 'an option needs it; the underlying is underlying: true',
      });
    }
  });

const Scenario = z.object({
  price: positive.optional().describe('of the underlying; that of the market unless given'),
  pricePercent: number.min(-0.99).max(10).optional().describe('or by how much it moves, a decimal'),
  at: moment.optional().describe('the moment; that of the market unless given'),
  volShift: shiftedVol.default(0).describe('a decimal; a share of each vol where it is in percent'),
  volScale: z.enum(VOL_SCALES).default('parallel'),
  volShifts: z
    .array(z.object({ expiry: day, settlement: unsaid, shift: shiftedVol }))
    .max(60)
    .default([])
    .describe('added for single expiries'),
  skewShift: number.min(-2).max(2).default(0).describe('of the 25-delta risk reversal, a decimal'),
  rateShift: number.min(-1).max(1).default(0),
  dynamics: z.enum(DYNAMICS).default('strike').describe('what keeps its vol while the price moves'),
  events: z.boolean().default(true).describe('whether announcements take their variance with them'),
});

export const MarketEvaluateRequest = z
  .object({
    asof: moment.optional().describe('the latest snapshot at or before it'),
    legs: z.array(MarketLeg).min(1).max(MOST_LEGS),
    fill: z
      .union([z.enum(['worst', 'mid', 'best']), z.object({ slippage: number.min(-1).max(1) })])
      .default('mid')
      .describe('slippage is a share of the half spread over the mid'),
    fee: number.min(0).max(1e6).default(0).describe('of each contract, in money; part of every cost'),
    basis: z.enum(BASES).default('curve').describe('by which legs are valued'),
    vol: positive.max(5).optional().describe('one vol, for manual; a decimal'),
    shift: number.min(-5).max(5).optional().describe('or what is added to every curve'),
    hv: z.string().optional().describe('the vol of realized, by the names of formulas'),
    scenario: Scenario.prefault({}),
    prices: z.array(positive).min(1).max(MOST_PRICES).optional(),
    moments: z.array(moment).min(1).max(MOST_DATES).optional().describe('of the curves'),
  })
  .superRefine(({ legs, prices, moments, scenario }, context) => {
    const fault = (path: (string | number)[], message: string) => context.addIssue({ code: 'custom', path, message });
    const points = legs.length * (prices?.length ?? 81) * (moments?.length ?? 4);
    if (points > MOST_LEG_POINTS)
      fault(['prices'], `${points} points of curves, each leg's counted; at most ${MOST_LEG_POINTS}`);
    if (scenario.price !== undefined && scenario.pricePercent !== undefined)
      fault(['scenario', 'pricePercent'], 'price or pricePercent, not both');
  })
  .meta({ id: 'MarketEvaluateRequest' });

const CurveGreeks = { delta: orNull, gamma: orNull, theta: orNull, vega: orNull };
const MarketGreeks = {
  ...CurveGreeks,
  ...{ rho: orNull, vanna: orNull, volga: orNull, charm: orNull, veta: orNull },
};

const Level = z.object({ level: number, probability: orNull });

export const MarketEvaluateResponse = z
  .object({
    asof: moment,
    price: number,
    multiplier: number,
    cost: z.object({ worst: orNull, mid: orNull, best: orNull }).describe('with the fees'),
    fees: number.describe('of all contracts, for one unit of the underlying'),
    entry: number.describe('at the fill, or as it was typed, with the fees; a leg without a quote at its theory'),
    value: orNull,
    horizon: moment.nullable().describe('the first expiry that is still to come'),
    maxProfit: orNull,
    maxLoss: orNull,
    unlimited: z.object({ profit: z.boolean(), loss: z.boolean() }),
    breakEvens: z.array(number),
    capitalAtRisk: orNull.describe('the most that can be lost; the worst cell of the stress where that has no end'),
    returnOnRisk: orNull,
    greeks: z.object(MarketGreeks),
    skew: orNull,
    curvature: orNull,
    volBought: orNull,
    volSold: orNull,
    legs: z.array(
      z.object({
        symbol: symbol.optional(),
        underlying: z.literal(true).optional(),
        expiry: day.optional(),
        settlement: settlement.optional(),
        strike: number.optional(),
        side: side.optional(),
        quantity: number,
        bid: orNull,
        ask: orNull,
        mid: orNull,
        entry: number,
        enteredBy: z.enum(['typed', 'fill', 'theory']),
        vol: orNull,
        theory: orNull,
        ...MarketGreeks,
      }),
    ),
    odds: z
      .array(
        z.object({
          basis: z.enum([...BASES, 'past']),
          profit: orNull,
          mostProfit: orNull,
          expected: orNull,
          deviation: orNull,
          worst5: orNull,
          zones: z.array(z.object({ from: orNull, to: orNull, probability: orNull })),
          touch: z.array(Level),
        }),
      )
      .describe('every basis that has an answer'),
    half: z
      .array(z.object({ basis: z.enum([...BASES, 'past']), probability: orNull, error: orNull }))
      .describe(
        'odds that half of the most profit is met at a close before the horizon, with their standard error: by paths of one vol and by past moves; a curve has no path',
      ),
    stress: z.object({
      moves: z.array(number).describe('of the price, in deviations of the horizon'),
      volFactors: z.array(number),
      pnl: z.array(z.array(orNull)).describe('a row for each factor'),
    }),
    curves: z.array(z.object({ moment, points: z.array(z.object({ price: number, pnl: orNull, ...CurveGreeks })) })),
    notes: z.array(z.string()).describe('what is to be known of these numbers'),
  })
  .meta({ id: 'MarketEvaluation' });

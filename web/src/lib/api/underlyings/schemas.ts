/** Underlyings, and what is held of them by session. */
import { z } from 'zod';
import { format, day, exercise, kind, moment, number, orNull } from '../shared';

export const Underlying = z
  .object({
    symbol: z.string(),
    name: z.string(),
    kind,
    currency: z.string().nullable(),
    multiplier: number,
    exercise,
    family: z.string().nullable(),
    familyRatio: orNull,
    calendar: z.string().nullable(),
    root: z.string().nullable(),
    expires: day.nullable(),
    tick: orNull,
  })
  .meta({ id: 'Underlying' });

export const UnderlyingMeasures = Underlying.extend({
  asof: moment.nullable(),
  price: orNull,
  change: orNull.describe('from the close of the session before, as a share'),
  closeBefore: orNull.describe('that close'),
  iv30: orNull,
  hv20: orNull.describe('Yang–Zhang over 20 sessions, of the bars that are over at the as-of'),
  ivToHv: orNull,
  rank: orNull.describe('0…1, of iv30 over the sessions held, at most 252'),
  percentile: orNull,
  low: orNull,
  high: orNull,
  rankSessions: orNull.describe('sessions in the lookback'),
  termSlope: orNull.describe('90-day less 30-day vol'),
  termState: z.enum(['contango', 'backwardation', 'flat']).nullable(),
  riskReversal25: orNull,
  frontExpiry: day.nullable(),
  frontStraddleMove: orNull,
  frontDeviationMove: orNull,
  volume: orNull,
  openInterest: orNull,
  contracts: orNull,
  usable: orNull,
  quality: orNull.describe('0…100'),
}).meta({ id: 'UnderlyingMeasures' });

export const UnderlyingsResponse = z
  .object({ underlyings: z.array(UnderlyingMeasures) })
  .meta({ id: 'UnderlyingsResponse' });

export const IntradayBarsQuery = z.object({
  asof: moment.optional().describe('bars of its day that begin before it; the latest moment held unless given'),
  format,
});

export const IntradayBarsResponse = z
  .object({
    symbol: z.string(),
    day,
    minutes: number,
    bars: z.array(
      z.object({
        time: moment.describe('its beginning'),
        open: number,
        high: number,
        low: number,
        close: number,
        volume: orNull,
      }),
    ),
  })
  .meta({ id: 'IntradayBars' });

export const HistoryQuery = z.object({
  from: day.optional(),
  to: day.optional(),
  series: z.string().optional().describe('names separated by commas, such as iv30,hv20.yz,close'),
  format,
});

export const HistoryResponse = z
  .object({
    symbol: z.string(),
    series: z.array(z.string()),
    rows: z.array(z.object({ date: day, asof: moment.nullable() }).catchall(orNull)),
  })
  .meta({ id: 'History' });

export const PeersQuery = z.object({
  asof: moment.optional(),
  sessions: z.coerce.number().int().min(20).max(504).default(120).describe('over which they are compared'),
  count: z.coerce.number().int().min(1).max(40).default(12),
  apart: z.enum(['true', 'false']).default('false').describe('leave its own family out'),
  alike: z.enum(['true', 'false']).default('false').describe('leave other kinds out'),
});

export const square = z.array(z.array(orNull));

export const PeersResponse = z
  .object({
    symbol: z.string(),
    sessions: number.describe('fewer than asked for where fewer are held'),
    measures: z.array(z.string()).describe('names of what stands beside each'),
    own: z.array(orNull),
    peers: z
      .array(
        z.object({
          symbol: z.string(),
          name: z.string(),
          kind,
          isSameKind: z.boolean(),
          isSameFamily: z.boolean(),
          closeness: number.describe('mean of both correlations, or the one that is known'),
          returns: orNull.describe('correlation of returns by session'),
          vols: orNull.describe('correlation of the changes of iv30'),
          pairs: number.describe('sessions that both have'),
          beta: orNull.describe('slope of its returns on those of the underlying'),
          impliedBeta: orNull.describe('the correlation times the ratio of iv30'),
          measures: z.array(orNull),
        }),
      )
      .describe('the nearest first; of each other family one'),
    performance: z.object({
      days: z.array(day),
      lines: z.array(z.object({ symbol: z.string(), values: z.array(orNull) })).describe('closes, the first as 100'),
    }),
    together: z.object({ symbols: z.array(z.string()), returns: square, vols: square }).describe('all by all'),
  })
  .meta({ id: 'Peers' });

export const EventsResponse = z
  .object({
    events: z.array(
      z.object({ date: day, start: moment.nullable(), title: z.string(), kind: z.string(), amount: orNull }),
    ),
  })
  .meta({ id: 'Events' });

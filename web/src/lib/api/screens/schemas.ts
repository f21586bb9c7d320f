/** Screens: formulas over all underlyings. */
import { CONE_SHARES, ESTIMATORS } from '@umwelt/core';
import { z } from 'zod';
import { format, day, kind, moment, number, orNull, settlement, symbol, version } from '../shared';
import { column } from '../snapshots/schemas';

const formula = z.string().max(500);

const MOST_COLUMNS = 64;

const MOST_FILTERS = 24;

export const KeptScreenRequest = z
  .object({
    name: z.string().trim().min(1).max(60),
    columns: z
      .array(formula)
      .max(MOST_COLUMNS)
      .describe('formulas; with ~ before it one is drawn as a line; flags, kind, family; * for the usual ones'),
    filters: z.array(formula).max(MOST_FILTERS),
    kinds: z.array(kind).max(5).default([]),
    families: z.array(z.string()).max(100).default([]),
    sort: z.string().max(520).default('').describe('a column, with | rising behind it where it rises'),
    version: version.nullable().default(null).describe('of the one that is changed; null for a new one'),
  })
  .refine(({ columns, filters }) => columns.length + filters.length > 0, {
    message: 'a screen has a column or a filter at least',
    path: ['columns'],
  })
  .meta({ id: 'KeptScreenRequest' });

export const KeptScreensResponse = z
  .object({
    screens: z.array(
      z.object({
        id: number,
        name: z.string(),
        columns: z.array(z.string()),
        filters: z.array(z.string()),
        kinds: z.array(kind),
        families: z.array(z.string()),
        sort: z.string(),
        version,
        changed: moment,
      }),
    ),
  })
  .meta({ id: 'KeptScreens' });

const sessionsOfSeries = z.number().int().min(1).max(504);

export const ScreenRequest = z
  .object({
    asof: moment.optional().describe('the latest of each underlying unless given'),
    columns: z
      .array(formula)
      .max(MOST_COLUMNS)
      .default([])
      .describe('formulas that are worked out for every underlying'),
    filters: z.array(formula).max(MOST_FILTERS).default([]).describe('conditions; what cannot be known does not pass'),
    series: z.array(formula).max(4).default([]).describe('formulas that are worked out for every session'),
    sessions: sessionsOfSeries.default(120).describe('of the series, the last ones'),
    symbols: z.array(symbol).max(10_000).optional().describe('only these are looked at'),
    kinds: z.array(kind).default([]).describe('only these kinds; all where none is named'),
    families: z.array(z.string()).default([]).describe('only these families'),
    sort: z
      .object({ by: formula.describe('a formula, or symbol'), descending: z.boolean().default(true) })
      .optional()
      .describe('order of the rows, by symbol unless given; what cannot be known comes last'),
    from: z.number().int().min(0).default(0).describe('rows before it are left out'),
    count: z.number().int().min(0).max(10_000).optional().describe('rows at most'),
  })
  .meta({ id: 'ScreenRequest' });

const manySymbols = z.array(symbol).min(1).max(60);

export const SkewsRequest = z
  .object({ symbols: manySymbols, asof: moment.optional(), days: z.number().positive().max(3650).default(30) })
  .meta({ id: 'SkewsRequest' });

export const SkewsResponse = z
  .object({
    deviations: z.array(number).describe('ln(K/F)/(σ√T) with the vol at the money'),
    skews: z.array(
      z.object({
        symbol: z.string(),
        asof: moment,
        expiry: day.describe('the one nearest to the days'),
        settlement,
        days: number,
        forward: orNull,
        atmVol: orNull,
        vols: column.describe('by deviation; null beyond the listed strikes'),
        borrowedFrom: z.string().nullable(),
      }),
    ),
  })
  .meta({ id: 'Skews' });

export const ConesRequest = z
  .object({ symbols: manySymbols, asof: moment.optional(), estimator: z.enum(ESTIMATORS).default('yang-zhang') })
  .meta({ id: 'ConesRequest' });

export const ConesResponse = z
  .object({
    windows: z.array(number).describe('sessions'),
    sessions: z.array(number).describe('of the term structure, as days of the calendar have them'),
    cones: z.array(
      z.object({
        symbol: z.string(),
        bars: number.describe('that the windows are taken from, 504 at most'),
        quantiles: z.array(z.array(orNull)).describe(`by window, of the shares ${CONE_SHARES.join(', ')}`),
        now: column.describe('by window'),
        term: column.describe('vols at the money by session ahead'),
      }),
    ),
  })
  .meta({ id: 'Cones' });

const several = z
  .union([z.string(), z.array(z.string())])
  .optional()
  .transform((value) => (value === undefined ? [] : [value].flat()));

export const ScreenQuery = z.object({
  asof: moment.optional(),
  column: several.describe('a formula; once for each column'),
  filter: several.describe('a condition; once for each'),
  kind: several.pipe(z.array(kind)),
  family: several,
  sort: formula.optional().describe('a formula, or symbol'),
  order: z.enum(['falling', 'rising']).default('falling'),
  count: z.coerce.number().int().min(0).max(10_000).optional(),
  format,
});

export const ScreenResponse = z
  .object({
    columns: z.array(z.object({ formula: z.string(), unit: z.string(), kind: z.enum(['truth', 'number']) })),
    filters: z.array(
      z.object({ formula: z.string(), removed: number.describe('underlyings that this filter alone leaves out') }),
    ),
    looked: number.describe('underlyings that were looked at'),
    left: number.describe('those that pass all filters'),
    rows: z
      .array(
        z.object({
          symbol: z.string(),
          name: z.string(),
          kind,
          asof: moment.nullable().describe('its moment; null where none is held'),
          frontExpiry: day.nullable(),
          event: z.object({ start: moment, title: z.string() }).nullable().describe('the next announcement'),
          columns: z.array(orNull),
          series: z.array(z.array(orNull)).describe('by series and session, the last at the end'),
        }),
      )
      .describe('underlyings that are left, in their order'),
  })
  .meta({ id: 'Screen' });

import { FoundRanking, MEASURE_KEYS, orNull, type FoundRow } from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '../../api';
import type { RankTask } from './work';

type Answer = z.input<typeof schemas.FinderResponse>;
type Row = Answer['rows'][number];

/** Measures with their paths taken apart: `greeks.delta` into greeks. */
function nested(measures: FoundRow['measures']): Record<string, unknown> {
  const out: Record<string, unknown> = {};
  for (const key of MEASURE_KEYS) {
    const parts = key.split('.');
    const last = parts.pop()!;
    let into = out;
    for (const part of parts) into = (into[part] ??= {}) as Record<string, unknown>;
    into[last] = orNull(measures[key]);
  }
  return out;
}

function rowAnswer(row: FoundRow, { body, asked }: RankTask): Row {
  const {
    symbol,
    multiplier,
    price,
    kind,
    legs,
    measures,
    score,
    shares,
    sketch,
    became,
    settled,
    ownVol,
    independent,
  } = row;
  return {
    // The paths are those of the schema.
    ...(nested(measures) as Omit<Row, 'symbol' | 'legs' | 'unlimited'>),
    ...{ symbol, multiplier, price, kind },
    legs: legs.map(({ mid, vol, openInterest, volume, ...leg }) => ({
      ...leg,
      ...{ mid: orNull(mid), vol: orNull(vol), openInterest: orNull(openInterest), volume: orNull(volume) },
    })),
    unlimited: { profit: measures.maxProfit === Infinity, loss: measures.maxLoss === Infinity },
    ...{ ownVol: orNull(ownVol), independent, score, became: orNull(became), settled: orNull(settled) },
    shares: shares.map((share, i) => ({ measure: asked.weights[i]!.measure, share })),
    ...(body.drawn && {
      sketch: {
        ...{ prices: [...sketch.prices], profits: [...sketch.profits], forward: sketch.forward },
        dots: sketch.dots.map((dot) => ({ ...dot })),
      },
    }),
  };
}

/** Where candidates lie by two measures. */
function scatterAnswer(ranking: FoundRanking, { scatter }: RankTask['body']): Answer['scatter'] {
  const told = scatter && ranking.scatter(scatter.x, scatter.y);
  return told ? { x: [...told.x], y: [...told.y], counts: told.counts.map((row) => [...row]) } : null;
}

/** What was found, in order, as the API tells it. */
export function finderAnswer(task: RankTask): Answer {
  const { found, body, asked, outside, skipped } = task;
  const ranking = new FoundRanking(found);
  const ranked = ranking.rank({ ...asked, outside: (at, formula, part) => outside[at]![formula]![part]! });
  const { made, within, dominated, further, bestOfNone } = ranked;
  return {
    ...{ made, within, dominated, further, bestOfNone, skipped: [...skipped] },
    leftOut: ranked.leftOut.map((count, i) => ({ limit: body.limits[i]!, count })),
    unknown: ranked.unknown
      .map((count, i) => ({ measure: asked.weights[i]!.measure, count }))
      .filter(({ count }) => count > 0),
    over: found.reduce((sum, { over }) => sum + over, 0),
    quotesOut: found.reduce((sum, { quotesOut }) => sum + quotesOut, 0),
    histograms: body.histograms.flatMap((measure) => {
      const told = ranking.histogram(measure);
      return told ? [{ measure, ...told, counts: [...told.counts] }] : [];
    }),
    scatter: scatterAnswer(ranking, body),
    rows: ranking.rows(ranked.order, asked.weights).map((row) => rowAnswer(row, task)),
  };
}

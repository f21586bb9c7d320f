import { expiryAt } from '@umwelt/core';
import * as api from '$lib/api/snapshots/endpoints';
import { notFound } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import { setExclusion } from '$lib/server/ingest';
import { startTask } from '$lib/server/jobs';
import { loadValued, snapshotAnswer } from '$lib/server/market';
import { knownUnderlying } from '../lookup';

export const POST = handle(api.judge, async ({ path, body }) => {
  const underlying = await knownUnderlying(path.symbol);
  const { symbol } = underlying;
  const { verdict, lasting, wasAside, strike = 0, side = '', ...at } = body;
  const asof = new Date(at.asof);
  const held = await loadValued(database(), symbol, asof);
  const slices = held?.snapshot.slices ?? [];
  const slice = slices[expiryAt(slices, { expiry: at.expiry, settlement: at.settlement ?? null })];
  if (!slice) throw notFound(`no quotes of ${symbol} at ${at.asof} that expire on ${at.expiry} are held`);
  if (side !== '' && !slice.strike.includes(strike)) throw notFound(`the strike ${strike} is not listed there`);
  const from = await setExclusion(
    database(),
    { symbol, asof, expiry: slice.expiry, settlement: slice.settlement, strike, side },
    verdict,
    lasting,
    wasAside,
  );
  if (from) await startTask(database(), 'rebuild', { symbols: [symbol], from: from.toISOString() });
  return snapshotAnswer(underlying, (await loadValued(database(), symbol, asof))!);
});

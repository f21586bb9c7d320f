import type { ExpiryId } from '@umwelt/core';
import { schemas } from '$lib/api';
import * as api from '$lib/api/snapshots/endpoints';
import { csvAnswer, jsonAnswer, notFound } from '$lib/server/api';
import { valued } from '$lib/server/market';
import { choiceOf } from '../choice';
import { handleOfSymbol, requestedSnapshot } from '../lookup';

export const GET = handleOfSymbol(api.chain, async ({ path, query }) => {
  const { expiry, settlement, basis = 'curve', format, layout = 'rows' } = query;
  const { underlying, stored } = await requestedSnapshot(path, query);
  const choice = await choiceOf({ ...query, basis }, underlying, stored);
  const isMeant = (one: ExpiryId) =>
    (expiry === undefined || one.expiry === expiry) && (settlement === undefined || one.settlement === settlement);
  const slices = stored.snapshot.slices.filter(isMeant);
  if (slices.length === 0 && (expiry ?? settlement) !== undefined) {
    const name = [expiry, settlement].filter(Boolean).join(' ');
    throw notFound(`${underlying.symbol} has no expiry ${name} in this snapshot`);
  }
  const bytes = await valued({
    kind: 'chain',
    underlying,
    stored: { ...stored, snapshot: { ...stored.snapshot, slices } },
    choice,
    layout,
  });
  if (format !== 'csv') return jsonAnswer(bytes);
  // As it was written, with what does not exist as null.
  const { contracts } = JSON.parse(Buffer.from(bytes).toString('utf8')) as { contracts: Record<string, unknown>[] };
  return csvAnswer('contracts', Object.keys(contracts[0] ?? schemas.ChainContract.shape), contracts);
});

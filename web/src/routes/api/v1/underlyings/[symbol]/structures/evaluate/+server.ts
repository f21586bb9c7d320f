import {
  ADJUSTED_KINDS,
  calendarById,
  cashDividends,
  expiryAt,
  placeLeg,
  type NamedLeg,
  type PlacedLeg,
} from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '$lib/api';
import * as api from '$lib/api/structures/endpoints';
import { ApiError, jsonAnswer } from '$lib/server/api';
import { database } from '$lib/server/database';
import { handle } from '$lib/server/handle';
import {
  findUnderlying,
  fittedSlices,
  listEvents,
  listUnderlyings,
  loadLatest,
  valued,
  type StoredSnapshot,
  type Underlying,
} from '$lib/server/market';
import { barsAt, choiceOf } from '../../choice';
import { requestedSnapshot } from '../../lookup';

type Asked = z.infer<typeof schemas.MarketEvaluateRequest>;
type Slices = ReturnType<typeof fittedSlices>;

const refusal = (at: number, field: string, message: string) =>
  new ApiError(422, 'Not to be evaluated', `legs.${at}.${field}: ${message}`, {
    errors: [{ path: `legs.${at}.${field}`, message }],
  });

/** Kinds of relatives of an index that can be traded. */
const TRADED = ['etf', 'future'];

const nearestOf = <T>(items: readonly T[], distance: (item: T) => number): T | undefined =>
  items.reduce<T | undefined>(
    (best, item) => (best === undefined || distance(item) < distance(best) ? item : best),
    undefined,
  );

/** Why a leg is not listed, with the nearest that is. */
function unlisted(at: number, slices: Slices, { expiry, settlement, strike }: NamedLeg): ApiError {
  const place = expiryAt(slices, { expiry, settlement });
  if (place < 0) {
    const away = (one: { expiry: string }) => Math.abs(Date.parse(one.expiry) - Date.parse(expiry));
    const nearest = nearestOf(slices, away);
    const offer = nearest ? `; the nearest is ${nearest.expiry}` : '';
    return refusal(at, 'expiry', `${expiry} is not listed at this moment${offer}`);
  }
  const nearest = nearestOf([...slices[place]!.strike], (level) => Math.abs(level - strike));
  return refusal(at, 'strike', `${expiry} has no strike ${strike} at this moment; the nearest is ${nearest}`);
}

/**
 * The markets that legs name beside the underlying: other deliveries of its root at the moment in view.
 *
 * @throws ApiError 422 naming a leg of anything else
 */
async function otherDeliveries(
  { legs }: Asked,
  { symbol, root }: Underlying,
  { snapshot }: StoredSnapshot,
): Promise<Map<string, StoredSnapshot>> {
  const found = new Map<string, StoredSnapshot>();
  for (const [at, { symbol: named = symbol }] of legs.entries()) {
    if (named === symbol || found.has(named)) continue;
    const other = await findUnderlying(database(), named);
    if (root === null || other?.root !== root)
      throw refusal(
        at,
        'symbol',
        `legs of ${symbol} and of ${named} are not evaluated together: they are of no one root`,
      );
    const stored = await loadLatest(database(), named, new Date(snapshot.asof));
    if (!stored) throw refusal(at, 'symbol', `no snapshot of ${named} is held at this moment`);
    found.set(named, stored);
  }
  return found;
}

/** Where the legs are listed; null for the underlying. @throws ApiError 422 naming the leg */
async function placedLegs(
  { legs, scenario }: Asked,
  underlying: Underlying,
  stored: StoredSnapshot,
  others: ReadonlyMap<string, StoredSnapshot>,
): Promise<(PlacedLeg | null)[]> {
  const { symbol, kind } = underlying;
  const slices = fittedSlices(stored);
  const slicesOf = (named: string) => (named === symbol ? slices : fittedSlices(others.get(named)!));
  for (const [i, { expiry, settlement = null }] of scenario.volShifts.entries()) {
    if (expiryAt(slices, { expiry, settlement }) >= 0) continue;
    const message = `${expiry} is not listed at this moment`;
    const path = `scenario.volShifts.${i}.expiry`;
    throw new ApiError(422, 'Not to be evaluated', `${path}: ${message}`, { errors: [{ path, message }] });
  }
  const placed: (PlacedLeg | null)[] = [];
  for (const [at, leg] of legs.entries()) {
    if (leg.underlying) {
      if (kind === 'index') {
        const others = (await listUnderlyings(database())).filter(
          (one) => one.family === underlying.family && TRADED.includes(one.kind),
        );
        const offer =
          others.length > 0 ? `; its fund and futures can: ${others.map((one) => one.symbol).join(', ')}` : '';
        throw refusal(at, 'underlying', `${symbol} is an index, which cannot be traded${offer}`);
      }
      placed.push(null);
      continue;
    }
    const { expiry = '', settlement = null, strike = NaN, side = 'call', quantity } = leg;
    const named: NamedLeg = { symbol: leg.symbol ?? symbol, expiry, settlement, strike, side, quantity };
    const listed = { symbol: named.symbol, slices: slicesOf(named.symbol) };
    const found = placeLeg(listed, named);
    if (!found) throw unlisted(at, listed.slices, named);
    placed.push(found);
  }
  return placed;
}

export const POST = handle(api.evaluateOnMarket, async ({ path, body }) => {
  const { underlying, stored } = await requestedSnapshot(path, body);
  const { asof } = stored.snapshot;
  const others = await otherDeliveries(body, underlying, stored);
  const placed = await placedLegs(body, underlying, stored, others);
  const early = [body.scenario.at, ...(body.moments ?? [])].find((at) => at !== undefined && Date.parse(at) < asof);
  if (early !== undefined)
    throw new ApiError(422, 'Not to be evaluated', `${early} is before the market, ${new Date(asof).toISOString()}`);
  const [bars, listed] = await Promise.all([barsAt(underlying, asof), listEvents(database(), underlying.symbol)]);
  const dividends = listed.dividends.filter(({ kind }) => !ADJUSTED_KINDS.includes(kind));
  const last = Math.max(asof, ...stored.fits.map(({ days }) => asof + days * 86_400_000));
  const column = (field: 'close' | 'high' | 'low') => Float64Array.from(bars, (bar) => bar[field]);
  const bytes = await valued({
    kind: 'structure',
    ...{ underlying, stored, asked: body, placed, deliveries: [...others.values()] },
    choice: await choiceOf(body, underlying, stored, bars),
    events: listed.events.map(({ start }) => start.getTime()),
    dividends: cashDividends(dividends, calendarById(underlying.calendar), asof, last),
    bars: { close: column('close'), high: column('high'), low: column('low') },
  });
  return jsonAnswer(bytes);
});

import {
  evensNow,
  isUnderlying,
  lastOfSessions,
  legWorth,
  livedThrough,
  positionAt,
  PROFIT_PARTS,
  sumParts,
  type BookFill,
  type ContractId,
  type LivedBy,
  type LivedMoment,
  type LivedParts,
  type LivedStretch,
  type MarketAt,
  type OptionId,
} from '@umwelt/core';
import type { z } from 'zod';
import type { schemas } from '../../api';
import type { Queryable } from '../db';
import { listAsofs } from '../market/queries';
import { contractFields } from './answers';
import type { BookFacts } from './facts';
import type { HeldBook } from './held';
import { pastMarkets, type Markets } from '../market/known-markets';
import { exchangesOf } from './worth';

type ExplainAnswer = z.input<typeof schemas.ExplainResponse>;
type ReplayAnswer = z.input<typeof schemas.ReplayResponse>;

export interface LivedAsked {
  from: number;
  to: number;
  method: 'turn' | 'averaged';
  by: LivedBy;
  /** Whether it is told stretch by stretch: by session, or by every moment that is held; null for the whole alone. */
  step: 'session' | 'moment' | null;
  /** One position; null for all of them. */
  id: number | null;
}

const iso = (instant: number) => new Date(instant).toISOString();

/** A position with the moments that it is looked at. */
interface Lived {
  id: number;
  fills: readonly BookFill[];
  stretches: readonly LivedStretch[];
}

/** The first moment of some that is not before another one. */
const firstFrom = (moments: readonly number[], time: number): number | undefined => moments.find((one) => one >= time);

/** Instants at which the moments of an underlying are held. */
async function heldInstants(session: Queryable, symbol: string, from: number, to: number): Promise<number[]> {
  return (await listAsofs(session, symbol, new Date(from), new Date(to))).map((asof) => asof.getTime());
}

/** The last of some instants that is not after another one. */
function lastTo(instants: readonly number[], time: number): number | undefined {
  let found: number | undefined;
  for (const one of instants) if (one <= time) found = one;
  return found;
}

/** Options among contracts, each once. */
function optionsOf(contracts: readonly ContractId[]): OptionId[] {
  const seen = new Map<string, OptionId>();
  for (const one of contracts)
    if (!isUnderlying(one)) seen.set(`${one.symbol} ${one.expiry} ${one.settlement} ${one.strike} ${one.side}`, one);
  return [...seen.values()];
}

/** The markets of one position at the moments of its underlyings. */
async function marketsOf(
  markets: Markets,
  session: Queryable,
  fills: readonly BookFill[],
  facts: BookFacts,
  instants: readonly number[],
): Promise<LivedMoment[]> {
  const [first, last] = [instants[0]!, instants.at(-1)!];
  const legs = [first, last].flatMap((at) => positionAt(fills, facts, at).legs.map(({ contract }) => contract));
  const contracts = [...fills.map(({ contract }) => contract), ...legs];
  const bySymbol = new Map<string, { held: number[]; at: ReadonlyMap<number, MarketAt> }>();
  for (const symbol of new Set(contracts.map((one) => one.symbol))) {
    const underlying = (await markets.underlyings()).get(symbol);
    if (!underlying) continue;
    const before = (await markets.asofs([symbol], first)).get(symbol);
    const held = [...(before === undefined ? [] : [before]), ...(await heldInstants(session, symbol, first + 1, last))];
    const wanted = [...new Set(instants.flatMap((at) => lastTo(held, at) ?? []))].sort((a, b) => a - b);
    const options = optionsOf(contracts).filter((one) => one.symbol === symbol);
    const dates = wanted.map((at) => new Date(at));
    const past = await pastMarkets(session, underlying, options, dates, await markets.eventsOf(symbol));
    bySymbol.set(symbol, { held: wanted, at: past });
  }
  return instants.map((instant) => ({
    instant,
    marketOf: (symbol) => {
      const known = bySymbol.get(symbol);
      const at = known && lastTo(known.held, instant);
      return at === undefined ? null : (known!.at.get(at) ?? null);
    },
  }));
}

/** The moments at which a position is looked at between two: its trades count to the first moment after them that is held. */
async function instantsOf(
  session: Queryable,
  fills: readonly BookFill[],
  { from, to, step }: Pick<LivedAsked, 'from' | 'to' | 'step'>,
  facts: BookFacts,
): Promise<number[]> {
  const symbol = fills[0]?.contract.symbol ?? '';
  const held = await heldInstants(session, symbol, from + 1, to);
  const steps =
    step === null ? [] : step === 'moment' ? held : lastOfSessions(facts.calendarOf(symbol), held, (at) => at);
  const traded = fills.flatMap(({ time }) => (time > from && time <= to ? (firstFrom(held, time) ?? []) : []));
  return [...new Set([from, ...steps, ...traded, to])].sort((a, b) => a - b);
}

/** What positions have lived through between two moments. */
async function livedOf(markets: Markets, session: Queryable, held: HeldBook, asked: LivedAsked): Promise<Lived[]> {
  const { stored, facts } = held;
  const lived: Lived[] = [];
  for (const { id } of stored.positions) {
    if (asked.id !== null && id !== asked.id) continue;
    const fills = held.fillsOf(id);
    if (!fills.some(({ time }) => time <= asked.to)) continue;
    const instants = await instantsOf(session, fills, asked, facts);
    // What was closed before the first moment has lived through nothing since.
    const { legs } = positionAt(fills, facts, asked.from);
    const isHeld =
      legs.some(({ lots }) => lots.length > 0) || fills.some(({ time }) => time > asked.from && time <= asked.to);
    if (!isHeld) continue;
    const moments =
      asked.id === null && asked.step === null
        ? await wholeMarkets(markets, fills, instants)
        : await marketsOf(markets, session, fills, facts, instants);
    lived.push({ id, fills, stretches: livedThrough(fills, facts, moments, asked.by, asked.method) });
  }
  return lived;
}

/** Whole markets, which the positions of a book share. */
async function wholeMarkets(
  markets: Markets,
  fills: readonly BookFill[],
  instants: readonly number[],
): Promise<LivedMoment[]> {
  const symbols = [...new Set(fills.map(({ contract }) => contract.symbol))];
  return Promise.all(
    instants.map(async (instant) => {
      const at = await markets.at(symbols, instant);
      return { instant, marketOf: (symbol: string) => at.get(symbol)?.at ?? null };
    }),
  );
}

/** Parts in the money of the book. */
function exchanged(parts: LivedParts, rate: number): LivedParts {
  const times = (of: LivedParts['inTurn']) =>
    Object.fromEntries(PROFIT_PARTS.map((name) => [name, rate * of[name]])) as LivedParts['inTurn'];
  return {
    ...{ inTurn: times(parts.inTurn), byGreeks: times(parts.byGreeks), cross: rate * parts.cross },
    ...{ delta: rate * parts.delta, gamma: rate * parts.gamma, change: rate * parts.change },
  };
}

const named = ({ inTurn }: LivedParts) => inTurn;

/** What brought the change of a book, or of one position, between two moments. */
export async function explainAnswer(
  markets: Markets,
  session: Queryable,
  held: HeldBook,
  asked: LivedAsked,
): Promise<ExplainAnswer> {
  const { stored, facts } = held;
  const [exchanges, lived] = await Promise.all([
    exchangesOf(markets, facts, stored.book.currency, asked.to),
    livedOf(markets, session, held, asked),
  ]);
  const legs = lived.flatMap(({ id, stretches }) => {
    // Legs are known by the first of their numbers over all stretches.
    const byId = new Map<number, { leg: LivedStretch['legs'][number]['leg']; parts: LivedParts[] }>();
    for (const stretch of stretches)
      for (const { leg, ...parts } of stretch.legs) {
        const rate = exchanges.get(leg.contract.symbol) ?? NaN;
        const key = leg.ids[0]!;
        const found = byId.get(key) ?? { leg, parts: [] };
        found.leg = leg;
        found.parts.push(exchanged(parts, rate));
        byId.set(key, found);
      }
    return Array.from(byId.values(), ({ leg, parts }) => ({ position: id, leg, parts: sumParts(parts) }));
  });
  const isKnown = ({ parts }: { parts: LivedParts }) => Number.isFinite(parts.change);
  const known = legs.filter(isKnown);
  const total = sumParts(known.map(({ parts }) => parts));
  const first = lived[0]?.stretches ?? [];
  return {
    from: iso(asked.from),
    to: iso(asked.to),
    change: total.change,
    parts: PROFIT_PARTS.filter((name) => name !== 'rest').map((name) => ({
      ...{ name, inTurn: total.inTurn[name], byGreeks: total.byGreeks[name] },
    })),
    rest: total.inTurn.rest,
    byGreeks: { delta: total.delta, gamma: total.gamma, cross: total.cross, rest: total.byGreeks.rest },
    positions: lived.map(({ id }) => {
      const own = sumParts(known.filter(({ position }) => position === id).map(({ parts }) => parts));
      return { id, change: own.change, parts: named(own) };
    }),
    legs: known.map(({ position, leg, parts }) => ({
      ...{ position, ...contractFields(leg.contract), quantity: Number(leg.quantity) },
      ...{ family: facts.underlyings.get(leg.contract.symbol)?.family ?? leg.contract.symbol },
      ...{ change: parts.change, parts: named(parts), byGreeks: parts.byGreeks },
      ...{ delta: parts.delta, gamma: parts.gamma, cross: parts.cross },
    })),
    stretches:
      asked.step === null
        ? []
        : first.map(({ to, legs: own }) => {
            const sum = sumParts(
              own.map(({ leg, ...parts }) => exchanged(parts, exchanges.get(leg.contract.symbol) ?? NaN)),
            );
            return { to: iso(to), change: sum.change, parts: named(sum) };
          }),
    missing: legs.length - known.length,
  };
}

/** What positions had brought by the end of each session since they were opened. */
export async function profitsAnswer(
  markets: Markets,
  session: Queryable,
  book: HeldBook,
  { ids, to, by }: { ids: readonly number[]; to: number; by: LivedBy },
): Promise<z.input<typeof schemas.ProfitsResponse>> {
  const { stored, facts } = book;
  const exchanges = await exchangesOf(markets, facts, stored.book.currency, to);
  const positions = [];
  for (const { id, symbol } of stored.positions) {
    const fills = book.fillsOf(id);
    const [first] = fills;
    if (!ids.includes(id) || !first || first.time > to) continue;
    const { closed } = positionAt(fills, facts, to);
    const until = closed ?? to;
    const held = await heldInstants(session, first.contract.symbol, first.time, until);
    const ends = lastOfSessions(facts.calendarOf(symbol), held, (at) => at);
    const instants = ends.length > 0 ? ends : [until];
    const moments = await marketsOf(markets, session, fills, facts, instants);
    positions.push({
      id,
      moments: instants.map(iso),
      profit: moments.map(({ instant, marketOf }) =>
        positionAt(fills, facts, instant).legs.reduce(
          (sum, leg) =>
            sum +
            (exchanges.get(leg.contract.symbol) ?? NaN) *
              (Number(leg.flowed) + legWorth(leg, marketOf(leg.contract.symbol), by)),
          0,
        ),
      ),
    });
  }
  return { positions };
}

/** A position moment by moment: what its legs were worth, what it had brought, and where it would break even. */
export async function replayAnswer(
  markets: Markets,
  session: Queryable,
  book: HeldBook,
  asked: Pick<LivedAsked, 'from' | 'to' | 'by'> & { step: 'session' | 'moment'; id: number },
): Promise<ReplayAnswer> {
  const { stored, facts } = book;
  const fills = book.fillsOf(asked.id);
  const symbol = stored.positions.find(({ id }) => id === asked.id)!.symbol;
  const opened = fills[0]?.time ?? asked.to;
  const begin = Math.max(asked.from, opened);
  // What is over is followed to its end.
  const until = positionAt(fills, facts, asked.to).closed ?? asked.to;
  const inside = await heldInstants(session, symbol, begin, Math.max(begin, until));
  const held =
    until < asked.to ? [...inside, ...(await heldInstants(session, symbol, until + 1, asked.to)).slice(0, 1)] : inside;
  const steps = asked.step === 'moment' ? held : lastOfSessions(facts.calendarOf(symbol), held, (at) => at);
  const traded = fills.flatMap(({ time }) => (time >= begin && time <= asked.to ? (firstFrom(held, time) ?? []) : []));
  const instants = [...new Set([...steps, ...traded])].sort((a, b) => a - b);
  const empty = { symbol, entry: null, rows: [], legs: [] };
  if (instants.length === 0) return empty;
  const moments = await marketsOf(markets, session, fills, facts, instants);
  const exchange = (await exchangesOf(markets, facts, stored.book.currency, asked.to)).get(symbol) ?? NaN;
  const states = moments.map(({ instant }) => positionAt(fills, facts, instant));
  const last = states.at(-1)!;
  const rows = moments.map(({ instant, marketOf }, i) => {
    const state = states[i]!;
    const market = marketOf(symbol);
    const worths = state.legs.map((leg) => legWorth(leg, marketOf(leg.contract.symbol), asked.by));
    const value = worths.reduce((sum, one) => sum + one, 0);
    const flowed = state.legs.reduce((sum, leg) => sum + Number(leg.flowed), 0);
    const live = state.legs.filter(({ lots, contract }) => lots.length > 0 && contract.symbol === symbol);
    const fits = live.flatMap(({ contract }) => (isUnderlying(contract) ? [] : (market?.expiry(contract)?.fit ?? [])));
    const nearest = fits.reduce<(typeof fits)[number] | null>(
      (one, fit) => (one && one.years <= fit.years ? one : fit),
      null,
    );
    const deviation = nearest ? nearest.atmVol * Math.sqrt(nearest.years) : 0;
    return {
      asof: iso(instant),
      price: market?.market.around.spot ?? null,
      vol: nearest?.atmVol ?? null,
      value: exchange * value,
      profit: exchange * (value + flowed),
      evens:
        market && live.length === state.legs.filter(({ lots }) => lots.length > 0).length
          ? evensNow(live, market, -flowed, deviation)
          : [],
      legs: last.legs.map(({ ids }) => {
        const at = state.legs.findIndex((leg) => leg.ids.some((one) => ids.includes(one)));
        const leg = state.legs[at];
        if (!leg) return { quantity: 0, mid: null, vol: null, profit: 0 };
        const mark = leg.lots.length > 0 && !leg.isAwaiting ? marketOf(leg.contract.symbol)?.mark(leg.contract) : null;
        const unit = mark ? (Number.isFinite(mark.mid) ? mark.mid : mark.theory) : null;
        return {
          ...{ quantity: Number(leg.quantity), mid: unit, vol: mark?.vol ?? null },
          profit: exchange * (Number(leg.flowed) + worths[at]!),
        };
      }),
    };
  });
  const [begun] = moments;
  const market = begun!.marketOf(symbol);
  const fits = states[0]!.legs.flatMap(({ contract }) =>
    isUnderlying(contract) ? [] : (market?.expiry(contract)?.fit ?? []),
  );
  const horizon = fits.reduce<(typeof fits)[number] | null>(
    (one, fit) => (one && one.years <= fit.years ? one : fit),
    null,
  );
  return {
    symbol,
    entry:
      market && horizon
        ? {
            ...{ asof: iso(begun!.instant), price: market.market.around.spot, vol: horizon.atmVol },
            deviation: horizon.forward * horizon.atmVol * Math.sqrt(horizon.years),
            expiry: horizon.expiry,
          }
        : null,
    legs: last.legs.map(({ contract }) => contractFields(contract)),
    rows,
  };
}

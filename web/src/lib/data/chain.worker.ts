import {
  midsOf,
  impliedColumns,
  refitSlice,
  valueSlice,
  writtenOn,
  type Aside,
  type Basis,
  type ExpiryFit,
  type Sample,
  type SideQuotes,
  type SideVols,
  type Side,
} from '@umwelt/core';
import * as Comlink from 'comlink';
import { forgetLoaded, loadSnapshot } from './api';
import type { QuoteSide } from '$lib/address';
import { packValues, packVols, type Sides } from './block';
import { contradictionsOf, type Contradictions } from './contradictions';
import {
  compareSide,
  futureOf,
  hedgeOf,
  type ComparedSide,
  type ContractFuture,
  type FutureRequest,
  type StraddleHedge,
} from './odds';
import { choiceOf, sampleTo, type PastTerms, type PricingTerms } from './pricing';
import type { LoadedSnapshot } from './snapshot';
import { evaluateLegs, type StructureAnswer, type StructureRequest } from './structure';

/**
 * Turns snapshots into vols, prices, Greeks and odds off the page's thread. It keeps the snapshots that it was
 * given last, so that a change of basis sends a word and gets one block of doubles back.
 */
interface Held {
  snapshot: LoadedSnapshot;
  vols: Sides<SideVols>[];
}

/** Snapshots kept: the moment in view, its neighbours, and a few more for quick stepping. */
const MOST_HELD = 12;
const held = new Map<SnapshotKey, Held>();
/** Raised when the cache is cleared, so that answers to earlier requests are not stored. */
let edition = 0;

/** Keeps a snapshot as the one that was used last. */
function keep(key: SnapshotKey, one: Held): void {
  held.delete(key);
  held.set(key, one);
  for (const oldest of held.keys()) if (held.size > MOST_HELD) held.delete(oldest);
}

/** What the quotes of a moment say of themselves, without the quotes. */
export interface QuotesLook {
  symbol: string;
  asof: string;
  fits: ExpiryFit[];
  contradictions: Contradictions;
}

function lookOf({ snapshot, vols }: Held): QuotesLook {
  const { symbol, asof, slices } = snapshot;
  return { symbol, asof, fits: slices.map(({ fit }) => fit), contradictions: contradictionsOf(snapshot, vols) };
}

/**
 * The name that the page gives a snapshot. The same moment reloaded, or fitted again, has another: what was asked of the old
 * one and comes late must not stand for the new.
 */
export type SnapshotKey = string;

const worker = {
  /** Takes a snapshot and solves its implied vols; one that is held already is not solved again. */
  load(key: SnapshotKey, snapshot: LoadedSnapshot): void {
    const found = held.get(key) ?? {
      snapshot,
      vols: snapshot.slices.map((slice) => ({
        call: impliedColumns(slice.strike, slice.call, slice.fit, 1, writtenOn(snapshot, snapshot)),
        put: impliedColumns(slice.strike, slice.put, slice.fit, -1, writtenOn(snapshot, snapshot)),
      })),
    };
    keep(key, found);
  },

  /**
   * Fits an expiry of a held snapshot again with other quotes set aside, and keeps it by another name; null when the snapshot is
   * not held any more.
   */
  refit(key: SnapshotKey, into: SnapshotKey, at: number, aside: Aside[]): ExpiryFit | null {
    const found = held.get(key);
    const slice = found?.snapshot.slices[at];
    if (!found || !slice) return null;
    const on = writtenOn(found.snapshot, found.snapshot);
    const wanted = { ...slice.fit, aside };
    const call = impliedColumns(slice.strike, slice.call, wanted, 1, on);
    const put = impliedColumns(slice.strike, slice.put, wanted, -1, on);
    const fit = refitSlice(slice, wanted, call, put);
    const slices = found.snapshot.slices.with(at, { ...slice, fit });
    keep(into, { snapshot: { ...found.snapshot, slices }, vols: found.vols.with(at, { call, put }) });
    return fit;
  },

  /** What contradicts itself in a held snapshot; null when it is not held any more. */
  look(key: SnapshotKey): QuotesLook | null {
    const found = held.get(key);
    return found ? lookOf(found) : null;
  },

  /** The same of a snapshot that the page has not loaded. */
  async lookAt(symbol: string, asof: string): Promise<QuotesLook> {
    const key = `${symbol} ${asof} of edition ${edition}`;
    if (!held.has(key)) worker.load(key, await loadSnapshot(symbol, asof));
    return lookOf(held.get(key)!);
  },

  /** Paths of the past to an expiry; null where none can be drawn. */
  sample(
    snapshot: Pick<LoadedSnapshot, 'kind' | 'exercise' | 'price'>,
    fit: ExpiryFit,
    past: PastTerms,
  ): Sample | null {
    return sampleTo(snapshot, fit, past);
  },

  /** One side of an expiry under every basis; null when the snapshot is not held any more. */
  compare(key: SnapshotKey, at: number, side: Side, terms: PricingTerms, quotes: QuoteSide): ComparedSide | null {
    const found = held.get(key);
    return found ? compareSide(found.snapshot, found.vols[at]![side], at, side, terms, quotes) : null;
  },

  /** Odds that a contract gains or loses by coming closes. */
  future(key: SnapshotKey, request: FutureRequest, terms: PricingTerms, quotes: QuoteSide): ContractFuture | null {
    const found = held.get(key);
    return found ? futureOf(found.snapshot, found.vols[request.slice]![request.side], request, terms, quotes) : null;
  },

  /** The hedge of a sold straddle by prices. */
  hedge(
    key: SnapshotKey,
    at: number,
    index: number,
    basis: Basis,
    terms: PricingTerms,
    quotes: QuoteSide,
    prices: number[],
  ): StraddleHedge | null {
    const found = held.get(key);
    return found ? hedgeOf(found.snapshot, found.vols[at]!, at, index, basis, terms, quotes, prices) : null;
  },

  /** What legs in hand come to. */
  structure(
    key: SnapshotKey,
    request: StructureRequest,
    terms: PricingTerms,
    quotes: QuoteSide,
  ): StructureAnswer | null {
    const found = held.get(key);
    return found ? evaluateLegs(found.snapshot, found.vols, request, terms, quotes) : null;
  },

  /** Forgets all snapshots, after the data have changed. */
  forget(): void {
    edition++;
    held.clear();
    forgetLoaded();
  },

  /** Values every expiry of a held snapshot under a basis; null when it is not held any more. */
  value(
    key: SnapshotKey,
    basis: Basis,
    terms: PricingTerms,
    quotes: QuoteSide,
  ): { values: Float64Array; vols: Float64Array } | null {
    const found = held.get(key);
    if (!found) return null;
    const { slices } = found.snapshot;
    const on = writtenOn(found.snapshot, found.snapshot);
    const values = packValues(
      slices.map((slice, i) => {
        const { call, put } = found.vols[i]!;
        const sample = terms.past && basis === 'realized' ? sampleTo(found.snapshot, slice.fit, terms.past) : undefined;
        const choice = choiceOf(basis, terms, i, sample);
        const of = (quoted: SideQuotes, vols: SideVols, sign: number) =>
          valueSlice(slice.strike, slice.fit, on, choice, { own: vols[quotes], mid: midsOf(quoted) }, sign);
        return { call: of(slice.call, call, 1), put: of(slice.put, put, -1) };
      }),
    );
    const vols = packVols(found.vols);
    return Comlink.transfer({ values, vols }, [values.buffer as ArrayBuffer, vols.buffer as ArrayBuffer]);
  },
};

export type ChainWorker = typeof worker;

Comlink.expose(worker);

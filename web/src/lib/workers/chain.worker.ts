import {
  impliedColumns,
  valueSlice,
  type BasisChoice,
  type MarketTerms,
  type SideValues,
  type SideVols,
} from '@umwelt/core';
import * as Comlink from 'comlink';
import type { QuoteSide } from '$lib/state/context';
import type { LoadedSnapshot, ValuedSlice } from './snapshot';

/**
 * Turns snapshots into vols, prices, Greeks and odds off the page's thread. It keeps the last snapshots that it
 * was given, so that a change of basis sends a word and gets columns back.
 */
interface Held {
  snapshot: LoadedSnapshot;
  vols: { call: SideVols; put: SideVols }[];
}

const MOST_HELD = 4;
const held = new Map<string, Held>();

const keyOf = (snapshot: Pick<LoadedSnapshot, 'symbol' | 'asof'>) => `${snapshot.symbol} ${snapshot.asof}`;

function buffersOf(values: ValuedSlice): ArrayBuffer[] {
  const arrays = [values.call, values.put, values.callVols, values.putVols].flatMap(
    (columns: SideValues | SideVols) => Object.values(columns) as (Float64Array | Uint8Array)[],
  );
  return [...new Set(arrays.map((array) => array.buffer as ArrayBuffer))];
}

const copyOf = (vols: SideVols): SideVols => ({
  bid: vols.bid.slice(),
  mid: vols.mid.slice(),
  ask: vols.ask.slice(),
  reason: vols.reason.slice(),
});

const worker = {
  /** Takes a snapshot and solves its implied vols. */
  load(snapshot: LoadedSnapshot): void {
    const vols = snapshot.slices.map((slice) => ({
      call: impliedColumns(slice.strike, slice.call, slice.fit, 1),
      put: impliedColumns(slice.strike, slice.put, slice.fit, -1),
    }));
    held.delete(keyOf(snapshot));
    held.set(keyOf(snapshot), { snapshot, vols });
    for (const key of held.keys()) if (held.size > MOST_HELD) held.delete(key);
  },

  /** Values every expiry of a held snapshot under a basis; null when it is not held any more. */
  value(
    snapshot: Pick<LoadedSnapshot, 'symbol' | 'asof'>,
    kind: MarketTerms['kind'],
    choice: BasisChoice,
    quotes: QuoteSide,
  ): ValuedSlice[] | null {
    const found = held.get(keyOf(snapshot));
    if (!found) return null;
    const { price, slices } = found.snapshot;
    const values = slices.map((slice, i) => {
      const { call, put } = found.vols[i]!;
      return {
        call: valueSlice(slice.strike, slice.fit, price, kind, choice, call[quotes], 1),
        put: valueSlice(slice.strike, slice.fit, price, kind, choice, put[quotes], -1),
        callVols: copyOf(call),
        putVols: copyOf(put),
      };
    });
    return Comlink.transfer(values, values.flatMap(buffersOf));
  },
};

export type ChainWorker = typeof worker;

Comlink.expose(worker);

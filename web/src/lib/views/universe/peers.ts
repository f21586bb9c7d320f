import type { z } from 'zod';
import { figures, type Sentence } from '$lib/formats';
import type { schemas } from '$lib/api';
import { call } from '$lib/api/call';
import type { DataTable } from '$lib/tables/data-table';

export type Peers = z.infer<typeof schemas.PeersResponse>;

/** How many are compared: more lines could not be told apart. */
const COUNT = 8;

/** Underlyings that move most like one of them; a null moment is the latest. */
export function loadPeers(
  symbol: string,
  asof: string | null,
  { sessions, isApart, isSameKind }: { sessions: number; isApart: boolean; isSameKind: boolean },
): Promise<Peers> {
  return call('GET /underlyings/{symbol}/peers', {
    path: { symbol },
    query: { sessions, count: COUNT, apart: isApart ? 'true' : null, alike: isSameKind ? 'true' : null, asof },
  });
}

/** Measures that stand beside each. */
export const PEER_MEASURES: readonly {
  name: string;
  label: string;
  title: string;
  write: (value: number | null) => string;
}[] = [
  { name: 'price', label: 'price', title: 'at the as-of', write: (value) => figures.fixed(value, 2) },
  { name: 'iv30', label: 'iv30', title: '30-day vol at the money, points', write: (value) => figures.vol(value) },
  {
    name: 'rank',
    label: 'rank',
    title: 'of iv30 over 252 sessions',
    write: (value) => figures.fixed(value === null ? null : 100 * value, 0),
  },
  { name: 'hv20.yz', label: 'hv20', title: 'over 20 sessions, Yang–Zhang', write: (value) => figures.vol(value) },
  { name: 'ivToHv', label: 'IV/HV', title: 'iv30 ÷ hv20', write: (value) => figures.fixed(value, 2) },
  { name: 'slope', label: 'term', title: '90-day less 30-day vol, points', write: (value) => figures.volChange(value) },
  { name: 'rr25', label: 'RR 25', title: '25-delta call less put, points', write: (value) => figures.volChange(value) },
];

/** The peers as a file has them. */
export function peersTable({ measures, peers }: Peers): DataTable {
  const facts = ['returns', 'vols', 'pairs', 'beta', 'impliedBeta'] as const;
  return {
    columns: [
      { name: 'symbol', type: 'text' },
      { name: 'name', type: 'text' },
      { name: 'kind', type: 'text' },
      ...[...facts, ...measures].map((name) => ({ name, type: 'number' as const })),
    ],
    rows: peers.map((peer) => [
      ...[peer.symbol, peer.name, peer.kind],
      ...facts.map((fact) => peer[fact]),
      ...peer.measures,
    ]),
  };
}

/** Where an underlying stands among those that move like it. */
export function peersSentence({ symbol, peers, own, measures }: Peers): Sentence {
  const at = measures.indexOf('ivToHv');
  const mine = own[at] ?? null;
  const others = peers.flatMap((peer) => {
    const ratio = peer.measures[at] ?? null;
    return ratio === null ? [] : [{ symbol: peer.symbol, ratio }];
  });
  const [nearest] = peers;
  const lead = nearest
    ? `${nearest.symbol} moves most like ${symbol} (${figures.fixed(nearest.returns, 2)} by returns, ${figures.fixed(nearest.vols, 2)} by iv30).`
    : `Nothing moves like ${symbol}.`;
  if (mine === null || others.length === 0) return { lead, rest: '' };
  const richer = others.filter(({ ratio }) => ratio > mine).length;
  const cheapest = others.reduce((low, one) => (one.ratio < low.ratio ? one : low));
  return {
    lead,
    rest: `Its IV/HV of ${figures.fixed(mine, 2)} is under that of ${figures.count(richer)} of ${figures.counted(others.length, 'peer')}; the least is that of ${cheapest.symbol} with ${figures.fixed(cheapest.ratio, 2)}.`,
  };
}

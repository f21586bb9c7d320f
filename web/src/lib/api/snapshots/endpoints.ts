import { z } from 'zod';
import { defineEndpoint } from '../define';
import { AsofQuery, ListQuery } from '../shared';
import { ContractPastQuery, ContractPastResponse } from './contract-past';
import {
  BorrowingRequest,
  BorrowingsResponse,
  ChainColumnsResponse,
  ChainQuery,
  ChainResponse,
  CurvesQuery,
  CurvesResponse,
  DoubtfulResponse,
  SnapshotResponse,
  SnapshotsResponse,
  SurfaceResponse,
  ExclusionRequest,
} from './schemas';

export const listSnapshots = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/snapshots',
  access: 'open',
  summary: 'The moments held, with their measures',
  query: ListQuery,
  response: SnapshotsResponse,
  csv: 'snapshots',
  example: { path: { symbol: 'MRX40' } },
});

export const getSnapshot = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/snapshots/{asof}',
  access: 'open',
  summary: 'A whole snapshot as columns',
  response: SnapshotResponse,
  names: { asof: 'a moment, or latest' },
  example: { path: { symbol: 'MRX40', asof: 'latest' } },
});

export const doubtful = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/doubtful',
  access: 'open',
  summary: 'Measures that move and come back within two sessions while their neighbours and the price do not',
  query: ListQuery,
  response: DoubtfulResponse,
  csv: 'doubtful',
  example: { path: { symbol: 'CAIR' } },
});

export const chain = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/chain',
  access: 'open',
  summary: 'Contracts with implied vols, and values under a vol basis',
  query: ChainQuery,
  response: z.union([ChainResponse, ChainColumnsResponse]),
  csv: 'contracts',
  example: { path: { symbol: 'MRX40' }, query: { expiry: '2031-04-17', basis: 'curve' } },
});

export const surface = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/surface',
  access: 'open',
  summary: 'Skews and term structure',
  query: AsofQuery,
  response: SurfaceResponse,
  example: { path: { symbol: 'MRX40' } },
});

export const curves = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/curves',
  access: 'open',
  summary: 'Fitted curves and their measures between two moments',
  query: CurvesQuery,
  response: CurvesResponse,
  example: { path: { symbol: 'MRX40' }, query: { from: '2031-03-12T00:00:00Z', to: '2031-03-13T23:00:00Z' } },
});

export const contractPast = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/contract-past',
  access: 'open',
  summary: 'Quotes and vols of contracts between two moments, and what they settled at',
  query: ContractPastQuery,
  response: ContractPastResponse,
  example: {
    path: { symbol: 'MRX40' },
    query: { contracts: 'c4300@2031-04-17', from: '2031-03-10T00:00:00Z', to: '2031-03-13T23:00:00Z' },
  },
});

export const listBorrowings = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/borrowings',
  access: 'open',
  summary: 'The expiries whose curve is taken from another one',
  response: BorrowingsResponse,
  example: { path: { symbol: 'MRX40' } },
});

export const borrow = defineEndpoint({
  method: 'POST',
  path: '/underlyings/{symbol}/borrowings',
  access: 'open',
  summary: 'Lets an expiry borrow its curve, or gives it its own one back',
  body: BorrowingRequest,
  response: BorrowingsResponse,
});

export const judge = defineEndpoint({
  method: 'POST',
  path: '/underlyings/{symbol}/verdicts',
  access: 'open',
  summary: 'Sets a contract or an expiry of a snapshot aside, or takes it back into use',
  body: ExclusionRequest,
  response: SnapshotResponse,
});

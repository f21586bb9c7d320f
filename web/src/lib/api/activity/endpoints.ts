import { defineEndpoint } from '../define';
import {
  ExpectedMovesQuery,
  ExpectedMovesResponse,
  OpenContractsQuery,
  OpenContractsResponse,
  TapeRequestQuery,
  TapeResponse,
} from './schemas';

export const expectedMoves = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/expected-moves',
  access: 'open',
  summary: 'Expected moves of every expiry, at a moment or at the end of each session from a day on',
  query: ExpectedMovesQuery,
  response: ExpectedMovesResponse,
  csv: 'moves',
  example: { path: { symbol: 'MRX40' } },
});

export const openContracts = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/open-contracts',
  access: 'open',
  summary: 'Open contracts of an expiry by strike, and where they were worth least at the end of each session',
  query: OpenContractsQuery,
  response: OpenContractsResponse,
  example: { path: { symbol: 'MRX40' }, query: { expiry: '2031-04-17', sessions: 3 } },
});

export const prints = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/prints',
  access: 'open',
  summary: 'The tape: trades with their distance from theory at their time',
  query: TapeRequestQuery,
  response: TapeResponse,
  csv: 'prints',
  example: { path: { symbol: 'MRX40' }, query: { most: 5 } },
});

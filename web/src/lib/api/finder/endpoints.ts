import { defineEndpoint } from '../define';
import { FinderQuery, FinderRequest, FinderResponse } from './schemas';

export const find = defineEndpoint({
  method: 'POST',
  path: '/finder',
  access: 'open',
  asks: true,
  summary:
    'Structures of some kinds on some underlyings within limits, in the order of weights; as text/event-stream with what is found on the way, as application/x-ndjson a row a line, with format=csv a table',
  query: FinderQuery,
  body: FinderRequest,
  response: FinderResponse,
  example: {
    body: {
      ...{ symbols: ['AURG'], kinds: ['vertical-credit', 'iron-condor'], days: [20, 65] },
      legs: { delta: [0.1, 0.32], wing: [0.2, 1.2] },
      limits: ['probabilityOfProfit >= 60%', 'returnOnRisk >= 15%'],
      top: { each: 2, all: 10 },
    },
  },
});

import { defineEndpoint } from '../define';
import { HedgeRequest, HedgeResponse } from './schemas';

export const hedge = defineEndpoint({
  method: 'POST',
  path: '/hedge',
  access: 'open',
  asks: true,
  summary: 'What to trade so that Greeks of an exposure are nothing: options first, then the underlying, step by step',
  body: HedgeRequest,
  response: HedgeResponse,
  example: {
    body: {
      exposure: { delta: 0, gamma: -5000, vega: -8000 },
      instruments: [
        { id: 'first', delta: 0.6, gamma: 0.5, vega: 2 },
        { id: 'second', delta: 0.5, gamma: 0.8, vega: 1.2 },
      ],
      neutralize: ['delta', 'gamma', 'vega'],
    },
  },
});

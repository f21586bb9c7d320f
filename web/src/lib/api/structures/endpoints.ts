import { defineEndpoint } from '../define';
import { AsofQuery, MomentQuery } from '../shared';
import { EvaluateRequest, EvaluateResponse, MarketEvaluateRequest, MarketEvaluateResponse } from './evaluation';
import { StructureChange, StructureRequest, StructuresRequest, StructuresResponse } from './schemas';

export const listStructures = defineEndpoint({
  method: 'GET',
  path: '/structures',
  access: 'open',
  summary: 'Structures that are kept, with what they are worth on the curve at a moment',
  query: AsofQuery,
  response: StructuresResponse,
  csv: 'structures',
});

export const keepStructure = defineEndpoint({
  method: 'POST',
  path: '/structures',
  access: 'open',
  summary: 'Keeps a structure at what it is worth',
  body: StructureRequest,
  response: StructuresResponse,
  creates: true,
});

export const keepStructures = defineEndpoint({
  method: 'POST',
  path: '/structures/import',
  access: 'open',
  summary: 'Keeps structures at what they are worth, all of them or none',
  body: StructuresRequest,
  response: StructuresResponse,
  creates: true,
});

export const streamStructures = defineEndpoint({
  method: 'GET',
  path: '/structures/stream',
  access: 'open',
  summary: 'Server-sent events: all kept structures, whenever one of them or what it is worth has changed',
  query: MomentQuery,
  response: StructuresResponse,
  answers: 'events',
});

export const changeStructure = defineEndpoint({
  method: 'PUT',
  path: '/structures/{id}',
  access: 'open',
  summary: 'Changes how many there are of a structure, its name, its tags, or what is noted of it',
  body: StructureChange,
  response: StructuresResponse,
});

export const deleteStructure = defineEndpoint({
  method: 'DELETE',
  path: '/structures/{id}',
  access: 'open',
  summary: 'Deletes a structure',
  response: StructuresResponse,
});

export const restoreStructure = defineEndpoint({
  method: 'POST',
  path: '/structures/{id}/restore',
  access: 'open',
  summary: 'Brings back a structure that was deleted',
  response: StructuresResponse,
});

export const evaluateStructure = defineEndpoint({
  method: 'POST',
  path: '/structures/evaluate',
  access: 'open',
  asks: true,
  summary: 'What given legs can gain and lose, how likely that is, and what they are worth along price and time',
  body: EvaluateRequest,
  response: EvaluateResponse,
  example: {
    body: {
      ...{ spot: 100, rate: 0.03, yield: 0.01, multiplier: 100 },
      legs: [
        { kind: 'option', side: 'put', strike: 95, years: 0.25, vol: 0.22, quantity: -1, entry: 1.9 },
        { kind: 'option', side: 'put', strike: 90, years: 0.25, vol: 0.24, quantity: 1, entry: 0.8 },
      ],
      prices: [85, 90, 95, 100, 105],
      afterDays: [0, 45],
    },
  },
});

export const evaluateOnMarket = defineEndpoint({
  method: 'POST',
  path: '/underlyings/{symbol}/structures/evaluate',
  access: 'open',
  asks: true,
  summary:
    'What legs on an underlying cost, are worth and may come to, by every basis and in a scenario; per unit of it',
  body: MarketEvaluateRequest,
  response: MarketEvaluateResponse,
  example: {
    path: { symbol: 'MRX40' },
    body: {
      legs: [
        { expiry: '2031-04-17', strike: 4300, side: 'call', quantity: 1 },
        { expiry: '2031-04-17', strike: 4400, side: 'call', quantity: -1 },
      ],
      scenario: { pricePercent: -0.02, volShift: 0.01 },
    },
  },
});

import { defineEndpoint } from '../define';
import { FinderQuery, FinderRequest, FinderResponse, TemplateRequest, TemplatesResponse } from './schemas';

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

export const listTemplates = defineEndpoint({
  method: 'GET',
  path: '/finder/templates',
  access: 'open',
  summary: 'What is looked for again and again, kept by name',
  response: TemplatesResponse,
});

export const keepTemplate = defineEndpoint({
  method: 'POST',
  path: '/finder/templates',
  access: 'open',
  summary: 'Keeps a template, or changes the one of its name',
  body: TemplateRequest,
  response: TemplatesResponse,
  creates: true,
});

export const deleteTemplate = defineEndpoint({
  method: 'DELETE',
  path: '/finder/templates/{id}',
  access: 'open',
  summary: 'Deletes a template that was kept',
  response: TemplatesResponse,
});

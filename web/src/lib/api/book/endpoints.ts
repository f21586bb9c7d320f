import { z } from 'zod';
import { defineEndpoint } from '../define';
import {
  BookChangeRequest,
  BookedResponse,
  BookRequest,
  BookRiskQuery,
  BookRiskResponse,
  BookScenarioRequest,
  BookScenarioResponse,
  BooksResponse,
  CashRequest,
  ChangesResponse,
  ExplainQuery,
  ExplainResponse,
  FillChangeRequest,
  FillsRequest,
  OneFillRequest,
  PositionChangeRequest,
  PositionRequest,
  PositionResponse,
  PositionsQuery,
  PositionsResponse,
  ProfitsQuery,
  ProfitsResponse,
  ReplayQuery,
  ReplayResponse,
  SettlementRequest,
  WorthQuery,
  WorthResponse,
} from './schemas';

export const listBooks = defineEndpoint({
  method: 'GET',
  path: '/books',
  access: 'open',
  summary: 'Books, each with the change that can be undone',
  response: BooksResponse,
  example: {},
});

export const makeBook = defineEndpoint({
  method: 'POST',
  path: '/books',
  access: 'open',
  summary: 'Makes a book',
  body: BookRequest,
  response: BookedResponse,
  creates: true,
});

export const changeBook = defineEndpoint({
  method: 'PUT',
  path: '/books/{id}',
  access: 'open',
  summary: 'Changes the name of a book, its currency, its note or its limits',
  body: BookChangeRequest,
  response: BookedResponse,
});

export const deleteBook = defineEndpoint({
  method: 'DELETE',
  path: '/books/{id}',
  access: 'open',
  summary: 'Deletes a book with all that is in it; undoing brings it back',
  response: BookedResponse,
});

export const undoBook = defineEndpoint({
  method: 'POST',
  path: '/books/{id}/undo',
  access: 'open',
  summary: 'Takes the last change of a book back',
  response: BookedResponse,
});

export const redoBook = defineEndpoint({
  method: 'POST',
  path: '/books/{id}/redo',
  access: 'open',
  summary: 'Makes the change again that was undone last',
  response: BookedResponse,
});

export const listChanges = defineEndpoint({
  method: 'GET',
  path: '/books/{id}/changes',
  access: 'open',
  summary: 'The journal of a book, the latest first',
  response: ChangesResponse,
  example: { path: { id: '1' } },
});

export const bookWorth = defineEndpoint({
  method: 'GET',
  path: '/books/{id}/worth',
  access: 'open',
  summary: 'What a book is worth at a moment: its positions with their profits, its legs with their Greeks',
  query: WorthQuery,
  response: WorthResponse,
  example: { path: { id: '1' }, query: { ghost: '2031-02-27T17:00:00Z' } },
});

export const bookRisk = defineEndpoint({
  method: 'GET',
  path: '/books/{id}/risk',
  access: 'open',
  summary: 'Greeks in money by family, underlying, expiry or strike; rows sum to the total',
  query: BookRiskQuery,
  response: BookRiskResponse,
  csv: 'rows',
  example: { path: { id: '1' }, query: { by: 'underlying' } },
});

export const bookScenario = defineEndpoint({
  method: 'POST',
  path: '/books/{id}/scenario',
  access: 'open',
  asks: true,
  summary: 'What moves of prices and vols would bring, against what it is worth now by the curves',
  body: BookScenarioRequest,
  response: BookScenarioResponse,
  example: { path: { id: '1' }, body: { moves: [-0.05, 0, 0.05], volShifts: [0.04, 0, -0.04] } },
});

export const explainBook = defineEndpoint({
  method: 'GET',
  path: '/books/{id}/explain',
  access: 'open',
  summary: 'What brought the change of a book between two moments',
  query: ExplainQuery.omit({ step: true }),
  response: ExplainResponse,
  example: { path: { id: '1' }, query: { from: '2031-02-27T17:00:00Z', to: '2031-03-13T17:00:00Z' } },
});

export const bookProfits = defineEndpoint({
  method: 'GET',
  path: '/books/{id}/profits',
  access: 'open',
  summary: 'What some positions had brought by the end of each session since they were opened',
  query: ProfitsQuery,
  response: ProfitsResponse,
  example: { path: { id: '1' }, query: { ids: '1', to: '2031-03-13T17:00:00Z' } },
});

export const explainPosition = defineEndpoint({
  method: 'GET',
  path: '/positions/{id}/explain',
  access: 'open',
  summary: 'What brought the change of a position between two moments',
  query: ExplainQuery,
  response: ExplainResponse,
  example: { path: { id: '1' }, query: { from: '2030-12-19T10:00:00Z', to: '2030-12-19T17:00:00Z' } },
});

export const replayPosition = defineEndpoint({
  method: 'GET',
  path: '/positions/{id}/replay',
  access: 'open',
  summary: 'A position moment by moment: what it was worth, what it had brought, where it would break even',
  query: ReplayQuery,
  response: ReplayResponse,
  example: { path: { id: '1' }, query: { step: 'moment' } },
});

export const bookCash = defineEndpoint({
  method: 'POST',
  path: '/books/{id}/cash',
  access: 'open',
  summary: 'Cash that is paid into a book, or out of it',
  body: CashRequest,
  response: BookedResponse,
  creates: true,
});

export const listPositions = defineEndpoint({
  method: 'GET',
  path: '/positions',
  access: 'open',
  summary: 'Positions of a book with what they are worth at a moment',
  query: PositionsQuery,
  response: PositionsResponse,
  csv: 'positions',
  example: { query: { book: 1 } },
});

export const openPosition = defineEndpoint({
  method: 'POST',
  path: '/positions',
  access: 'open',
  summary: 'Opens a position, with what was traded of it: all of it or nothing',
  body: PositionRequest,
  response: BookedResponse,
  creates: true,
});

export const getPosition = defineEndpoint({
  method: 'GET',
  path: '/positions/{id}',
  access: 'open',
  summary: 'A position at a moment: its legs, its fills, what it is worth',
  query: WorthQuery,
  response: PositionResponse,
  example: { path: { id: '1' } },
});

export const changePosition = defineEndpoint({
  method: 'PUT',
  path: '/positions/{id}',
  access: 'open',
  summary: 'Changes the name of a position, its tags or its note',
  body: PositionChangeRequest,
  response: BookedResponse,
});

export const deletePosition = defineEndpoint({
  method: 'DELETE',
  path: '/positions/{id}',
  access: 'open',
  summary: 'Deletes a position with its fills; undoing brings it back',
  response: BookedResponse,
});

export const bookFills = defineEndpoint({
  method: 'POST',
  path: '/positions/{id}/fills',
  access: 'open',
  summary: 'Books trades of a position as one: adjusted, rolled, closed, assigned',
  body: FillsRequest,
  response: BookedResponse,
  creates: true,
});

export const bookFill = defineEndpoint({
  method: 'POST',
  path: '/fills',
  access: 'open',
  summary: 'Books a trade',
  body: OneFillRequest,
  response: BookedResponse,
  creates: true,
});

export const changeFill = defineEndpoint({
  method: 'PUT',
  path: '/fills/{id}',
  access: 'open',
  summary: 'Corrects a trade',
  body: FillChangeRequest,
  response: BookedResponse,
});

export const deleteFill = defineEndpoint({
  method: 'DELETE',
  path: '/fills/{id}',
  access: 'open',
  summary: 'Deletes a trade; undoing brings it back',
  response: BookedResponse,
});

export const settle = defineEndpoint({
  method: 'PUT',
  path: '/settlements',
  access: 'open',
  summary: 'Says what an expiry has settled at, in place of the price of its bar',
  body: SettlementRequest,
  response: z.object({}),
});

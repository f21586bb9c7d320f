import { defineEndpoint } from '../define';
import {
  ConesRequest,
  ConesResponse,
  KeptScreenRequest,
  KeptScreensResponse,
  ScreenQuery,
  ScreenRequest,
  ScreenResponse,
  SkewsRequest,
  SkewsResponse,
} from './schemas';

export const listScreens = defineEndpoint({
  method: 'GET',
  path: '/screens',
  access: 'open',
  summary: 'Screens that are kept, by name',
  response: KeptScreensResponse,
});

export const keepScreen = defineEndpoint({
  method: 'POST',
  path: '/screens',
  access: 'open',
  summary: 'Keeps a screen, or changes the one of its name',
  body: KeptScreenRequest,
  response: KeptScreensResponse,
  creates: true,
});

export const deleteScreen = defineEndpoint({
  method: 'DELETE',
  path: '/screens/{id}',
  access: 'open',
  summary: 'Deletes a screen that was kept',
  response: KeptScreensResponse,
});

export const screenTable = defineEndpoint({
  method: 'GET',
  path: '/screen',
  access: 'open',
  summary: 'The same for a spreadsheet: formulas in the address, and a table of values',
  query: ScreenQuery,
  response: ScreenResponse,
  csv: 'rows',
  example: { query: { column: ['iv30', 'iv30 / hv20.yz'], filter: ['iv30 > 20%'], count: 5 } },
});

export const screen = defineEndpoint({
  method: 'POST',
  path: '/screen',
  access: 'open',
  asks: true,
  summary: 'Formulas as columns and filters over all underlyings at a moment',
  body: ScreenRequest,
  response: ScreenResponse,
  example: { body: { columns: ['iv30', 'rank(iv30, 120)'], filters: ['rr25 < 0'], count: 5 } },
});

export const skews = defineEndpoint({
  method: 'POST',
  path: '/skews',
  access: 'open',
  asks: true,
  summary: 'The curve nearest to so many days of each of some underlyings',
  body: SkewsRequest,
  response: SkewsResponse,
  example: { body: { symbols: ['MRX40', 'CAIR'], days: 30 } },
});

export const cones = defineEndpoint({
  method: 'POST',
  path: '/cones',
  access: 'open',
  asks: true,
  summary: 'Historical vols by window of each of some underlyings, and what is implied',
  body: ConesRequest,
  response: ConesResponse,
  example: { body: { symbols: ['MRX40'], estimator: 'yang-zhang' } },
});

import { defineEndpoint } from '../define';
import { AsofQuery, ListQuery } from '../shared';
import {
  EventsResponse,
  HistoryQuery,
  HistoryResponse,
  IntradayBarsQuery,
  IntradayBarsResponse,
  PeersQuery,
  PeersResponse,
  UnderlyingMeasures,
  UnderlyingsResponse,
} from './schemas';

export const listUnderlyings = defineEndpoint({
  method: 'GET',
  path: '/underlyings',
  access: 'open',
  summary: 'All underlyings with their measures at a moment',
  query: AsofQuery,
  response: UnderlyingsResponse,
  csv: 'underlyings',
});

export const getUnderlying = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}',
  access: 'open',
  summary: 'One underlying with its measures at a moment',
  query: AsofQuery,
  response: UnderlyingMeasures,
  example: { path: { symbol: 'MRX40' } },
});

export const peers = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/peers',
  access: 'open',
  summary: 'Underlyings that move most like one of them',
  query: PeersQuery,
  response: PeersResponse,
  example: { path: { symbol: 'MRX40' }, query: { count: 3 } },
});

export const history = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/history',
  access: 'open',
  summary: 'Prices, implied and historical vols by session',
  query: HistoryQuery,
  response: HistoryResponse,
  csv: 'rows',
  example: { path: { symbol: 'MRX40' }, query: { from: '2031-03-10', series: 'close,iv30' } },
});

export const events = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/events',
  access: 'open',
  summary: 'Dividends and announcements',
  query: ListQuery,
  response: EventsResponse,
  csv: 'events',
  example: { path: { symbol: 'MRX40' } },
});

export const intradayBars = defineEndpoint({
  method: 'GET',
  path: '/underlyings/{symbol}/intraday-bars',
  access: 'open',
  summary: 'Bars of a quarter of an hour of a session, of whatever finer ones are held',
  query: IntradayBarsQuery,
  response: IntradayBarsResponse,
  csv: 'bars',
  example: { path: { symbol: 'MRX40' } },
});

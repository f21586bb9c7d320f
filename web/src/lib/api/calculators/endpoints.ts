import { defineEndpoint } from '../define';
import {
  ExpectedMoveRequest,
  ExpectedMoveResponse,
  ImpliedVolRequest,
  ImpliedVolResponse,
  MaxPainRequest,
  MaxPainResponse,
  PriceRequest,
  PriceResponse,
  ProbabilitiesRequest,
  ProbabilitiesResponse,
  RealizedVolRequest,
  RealizedVolResponse,
  SurfaceFitRequest,
  SurfaceFitResponse,
  VarianceIndexRequest,
  VarianceIndexResponse,
} from './schemas';

/** The contract of the examples. */
const CALL = {
  model: 'black-scholes-merton',
  side: 'call',
  spot: 100,
  strike: 105,
  years: 0.5,
  rate: 0.03,
  yield: 0.01,
} as const;

export const price = defineEndpoint({
  method: 'POST',
  path: '/price',
  access: 'open',
  asks: true,
  summary: 'Prices, Greeks and odds of contracts under any model',
  body: PriceRequest,
  response: PriceResponse,
  reads: 'json-apart',
  example: {
    body: {
      contracts: [{ ...CALL, vol: 0.2 }],
    },
  },
});

export const impliedVol = defineEndpoint({
  method: 'POST',
  path: '/implied-vol',
  access: 'open',
  asks: true,
  summary: 'Implied vols of prices, or the reason why there is none',
  body: ImpliedVolRequest,
  response: ImpliedVolResponse,
  reads: 'json-apart',
  example: {
    body: {
      contracts: [{ ...CALL, price: 4.2 }],
    },
  },
});

export const realizedVol = defineEndpoint({
  method: 'POST',
  path: '/realized-vol',
  access: 'open',
  asks: true,
  summary: 'Historical vols of bars by any estimator, rolling',
  body: RealizedVolRequest,
  response: RealizedVolResponse,
  example: {
    body: {
      window: 3,
      estimator: 'close',
      bars: [
        { date: '2031-03-10', open: 100, high: 102, low: 99, close: 101 },
        { date: '2031-03-11', open: 101, high: 101.5, low: 98, close: 98.5 },
        { date: '2031-03-12', open: 98.5, high: 100, low: 97.5, close: 99.5 },
        { date: '2031-03-13', open: 99.5, high: 103, low: 99, close: 102.5 },
      ],
    },
  },
});

export const varianceIndex = defineEndpoint({
  method: 'POST',
  path: '/variance-index',
  access: 'open',
  asks: true,
  summary: 'The index of two expiries by the published rule alone, extrapolation included',
  body: VarianceIndexRequest,
  response: VarianceIndexResponse,
  example: {
    body: {
      terms: [
        {
          minutes: 34_560,
          rate: 0.03,
          strikes: [
            { strike: 95, callBid: 6, callAsk: 6.2, putBid: 0.9, putAsk: 1 },
            { strike: 100, callBid: 2.5, callAsk: 2.6, putBid: 2.3, putAsk: 2.4 },
            { strike: 105, callBid: 0.8, callAsk: 0.9, putBid: 5.5, putAsk: 5.7 },
          ],
        },
        {
          minutes: 51_840,
          rate: 0.03,
          strikes: [
            { strike: 95, callBid: 6.5, callAsk: 6.7, putBid: 1.4, putAsk: 1.5 },
            { strike: 100, callBid: 3.1, callAsk: 3.2, putBid: 2.8, putAsk: 2.9 },
            { strike: 105, callBid: 1.3, callAsk: 1.4, putBid: 5.9, putAsk: 6.1 },
          ],
        },
      ],
    },
  },
});

export const fitSurface = defineEndpoint({
  method: 'POST',
  path: '/surface/fit',
  access: 'open',
  asks: true,
  summary: 'Curves through given vols without arbitrage, what these vols say of it, and the surface in between',
  body: SurfaceFitRequest,
  response: SurfaceFitResponse,
  reads: 'json-apart',
  example: {
    body: {
      slices: [
        { years: 0.1, forward: 100, strikes: [85, 90, 95, 100, 105, 110], vols: [0.29, 0.26, 0.23, 0.21, 0.2, 0.205] },
        { years: 0.3, forward: 101, strikes: [80, 90, 100, 110, 120], vols: [0.28, 0.245, 0.215, 0.2, 0.2] },
      ],
      query: [{ years: 0.2, strike: 97 }],
    },
  },
});

export const probabilities = defineEndpoint({
  method: 'POST',
  path: '/probabilities',
  access: 'open',
  asks: true,
  summary: 'Odds to end beyond levels, to touch them, and to end between them',
  body: ProbabilitiesRequest,
  response: ProbabilitiesResponse,
  example: { body: { forward: 101, spot: 100, years: 0.25, vol: 0.2, levels: [90, 110] } },
});

export const expectedMove = defineEndpoint({
  method: 'POST',
  path: '/expected-move',
  access: 'open',
  asks: true,
  summary: 'How far the price is expected to move, by the straddle at the money and as one deviation',
  body: ExpectedMoveRequest,
  response: ExpectedMoveResponse,
  example: { body: { forward: 100, years: 0.1, atmVol: 0.2, straddles: [{ strike: 100, callMid: 2.6, putMid: 2.5 }] } },
});

export const maxPain = defineEndpoint({
  method: 'POST',
  path: '/max-pain',
  access: 'open',
  asks: true,
  summary: 'What open contracts are worth by settlement price, and where that is least',
  body: MaxPainRequest,
  response: MaxPainResponse,
  example: {
    body: {
      strikes: [
        { strike: 95, callOpenInterest: 10, putOpenInterest: 40 },
        { strike: 100, callOpenInterest: 30, putOpenInterest: 30 },
        { strike: 105, callOpenInterest: 50, putOpenInterest: 5 },
      ],
      multiplier: 100,
    },
  },
});

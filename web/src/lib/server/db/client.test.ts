import { expect, it } from 'vitest';
import { parseDoubles } from './client';

it('arrays of doubles as PostgreSQL writes them', () => {
  expect(parseDoubles('{}')).toEqual([]);
  expect(parseDoubles('{1.5}')).toEqual([1.5]);
  expect(parseDoubles('{0.1,-2e-300,NaN,NULL,Infinity,-Infinity,123456789.123456789}')).toEqual([
    0.1,
    -2e-300,
    NaN,
    null,
    Infinity,
    -Infinity,
    123456789.123456789,
  ]);
});

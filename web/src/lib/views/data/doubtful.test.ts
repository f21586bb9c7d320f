import { describe, expect, it } from 'vitest';
import { doubtfulWords, MEASURE_LABELS } from './doubtful';

describe('what is doubtful, in words', () => {
  const one = { at: 3, sessions: 1, measure: 'iv90', value: 0.372, usual: 0.731, errors: 12.4 } as const;
  it('says the value, what it is between, and why nobody can mean it', () => {
    expect(doubtfulWords(one)).toBe(
      'is 37.2 between sessions at 73.1, 12 standard errors: it comes back within 1 session, and neither its neighbours nor the price go with it',
    );
    expect(doubtfulWords({ ...one, measure: 'varianceIndex', value: 29.5, usual: 37.6, sessions: 2 })).toContain(
      'is 29.5 between sessions at 37.6',
    );
    expect(doubtfulWords({ ...one, measure: 'straddleRatio', value: 1.1, usual: 0.8, errors: NaN })).toMatch(
      /^is 1\.10 between sessions at 0\.80: it comes back/,
    );
  });
  it('every measure has a name', () => {
    expect(Object.values(MEASURE_LABELS).every((label) => label.length > 2)).toBe(true);
  });
});

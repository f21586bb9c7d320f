import { describe, expect, it } from 'vitest';
import { TaskRequest } from '$lib/api/schemas';
import { EXPORTS } from '$lib/server/export';
import { EXPORT_CHOICES, exportPath, exportTask, formatsOf, isLong } from './stored';

describe('exports', () => {
  it('have a path of what they are narrowed to', () => {
    expect(exportPath('chain', 'csv', { symbol: 'MRX40', asof: '2031-03-13T16:45:00.000Z' })).toBe(
      '/api/v1/exports/chain.csv?symbol=MRX40&asof=2031-03-13T16%3A45%3A00.000Z',
    );
    expect(exportPath('rates', 'json', { symbol: null, asof: null })).toBe('/api/v1/exports/rates.json');
    expect(EXPORT_CHOICES.map(({ name }) => name).toSorted()).toEqual([...EXPORTS].toSorted());
    expect(formatsOf('events')).toContain('ics');
    expect(formatsOf('bars')).not.toContain('ics');
  });
  it('of much are left to a worker', () => {
    const [everything, one] = [
      { symbol: null, asof: null },
      { symbol: 'CAIR', asof: '2031-03-13T16:45:00.000Z' },
    ];
    expect(isLong('chain', one)).toBe(false);
    expect(isLong('chain', { ...one, asof: null })).toBe(true);
    expect(isLong('chain', { ...one, symbol: null })).toBe(true);
    expect(isLong('bars', { symbol: 'CAIR', asof: null })).toBe(false);
    expect(isLong('rates', everything)).toBe(false);
    expect(exportTask('chain', 'parquet', everything)).toEqual({ kind: 'export', file: 'chain.parquet' });
    expect(TaskRequest.parse(exportTask('chain', 'csv', one))).toEqual({
      kind: 'export',
      file: 'chain.csv',
      symbols: ['CAIR'],
      asof: '2031-03-13T16:45:00.000Z',
    });
  });
});

import { describe, expect, it } from 'vitest';
import { IMPORT_STATES } from '$lib/api/imports/states';
import {
  canOpen,
  canStop,
  countWords,
  hasChangedData,
  heldTable,
  isMoving,
  matched,
  shadeOf,
  shareRead,
  sizeWords,
  stateWords,
  type ImportSummary,
} from './imports';

const of = (change: Partial<ImportSummary>) =>
  ({
    status: 'received',
    bytes: 100,
    bytesRead: 0,
    isKept: true,
    what: 'chain',
    counts: {},
    ...change,
  }) as ImportSummary;

describe('imports in words', () => {
  it('each state has words, and is at rest, moving or to be stopped', () => {
    for (const status of IMPORT_STATES) expect(stateWords({ status })).not.toBe('');
    const such = (test: (row: ImportSummary) => boolean) => IMPORT_STATES.filter((status) => test(of({ status })));
    expect(such(isMoving)).toEqual(['receiving', 'checking', 'queued', 'running', 'deriving', 'undoing']);
    expect(such(canStop)).toEqual(['receiving', 'received', 'checking', 'checked', 'queued', 'running']);
    expect(such(canOpen)).toEqual(['received', 'checked', 'refused', 'failed', 'cancelled', 'undone']);
    expect(canOpen(of({ isKept: false }))).toBe(false);
  });
  it('what has come or was taken back since is new to the page', () => {
    const done = { id: 1, status: 'done' } as const;
    const deriving = { id: 2, status: 'deriving' } as const;
    expect(hasChangedData([done, deriving], [done, deriving])).toBe(false);
    expect(hasChangedData([done, deriving], [done, { ...deriving, status: 'done' }])).toBe(true);
    expect(hasChangedData([done], [{ ...done, status: 'undoing' }])).toBe(false);
    expect(hasChangedData([done], [{ ...done, status: 'undone' }])).toBe(true);
    expect(hasChangedData([], [done])).toBe(true);
    expect(hasChangedData([done], [])).toBe(false);
  });
  it('progress is of the bytes, where they are read', () => {
    expect(shareRead(of({ status: 'running', bytesRead: 25 }))).toBe(0.25);
    expect(shareRead(of({ status: 'checking', bytes: 0 }))).toBeNull();
    expect(shareRead(of({ status: 'done', bytesRead: 100 }))).toBeNull();
  });
  it('counts say what they are of', () => {
    expect(countWords(of({ counts: { added: 1200, changed: 0, leftOut: 2 } }))).toBe(
      'snapshots: 1\u2009200 new, 2 left out for a bad row',
    );
    expect(countWords(of({ what: 'rates', counts: { unchanged: 3, rebuilt: 5 } }))).toBe(
      'records: 3 as they were, 5 snapshots measured anew',
    );
    expect(countWords(of({}))).toBe('nothing changes');
  });
  it('sizes have units', () => {
    expect([0, 999, 1500, 74_000_000, 123_400_000, 2e9].map(sizeWords)).toEqual([
      '0 B',
      '999 B',
      '1.5 kB',
      '74.0 MB',
      '123 MB',
      '2.0 GB',
    ]);
  });
});

describe('matching', () => {
  it('gives a column one meaning, and a meaning one column', () => {
    const columns = { Geld: 'bid', Brief: 'ask' };
    expect(matched(columns, 'Brief', 'bid')).toEqual({ Brief: 'bid' });
    expect(matched(columns, 'Typ', 'side')).toEqual({ ...columns, Typ: 'side' });
    expect(matched(columns, 'Geld', null)).toEqual({ Brief: 'ask' });
  });
});

it('shades go by quality; what cannot be told is poor', () => {
  expect([null, 10, 60, 80, 95].map(shadeOf)).toEqual([1, 1, 2, 3, 4]);
});

it('what is held is a row per underlying and session', () => {
  const row = { name: 'A', holes: [], bars: 3, prints: 0 };
  const { columns, rows } = heldTable({
    sessions: ['2031-03-12', '2031-03-13'],
    underlyings: [
      { ...row, symbol: 'A', moments: [1, 26], contracts: [10, 12], usable: [9, 12], quality: [80, null] },
      { ...row, symbol: 'B', moments: [0, 1], contracts: [0, 4], usable: [0, 3], quality: [null, 55] },
    ],
  });
  expect(columns.map(({ name }) => name)).toEqual(['symbol', 'date', 'snapshots', 'contracts', 'usable', 'quality']);
  expect(rows).toEqual([
    ['A', '2031-03-12', 1, 10, 9, 80],
    ['A', '2031-03-13', 26, 12, 12, null],
    ['B', '2031-03-13', 1, 4, 3, 55],
  ]);
});

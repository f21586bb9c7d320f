import type { z } from 'zod';
import type { schemas } from '$lib/api';
import { numberColumns, type DataTable } from '$lib/tables';

export type ImportSummary = z.infer<typeof schemas.ImportSummary>;
export type ImportRecord = z.infer<typeof schemas.ImportRecord>;
type Preview = z.infer<typeof schemas.ImportPreview>;
export type ImportPreview = Exclude<Preview, { problem: string }>;
export type Conventions = z.infer<typeof schemas.Conventions>;
export type Task = z.infer<typeof schemas.TaskRecord>;
export type Holdings = z.infer<typeof schemas.HoldingsResponse>;

const MOVING = ['receiving', 'checking', 'queued', 'running', 'deriving', 'undoing'];

/** Whether something is being done with an import. */
export function isMoving({ status }: Pick<ImportSummary, 'status'>): boolean {
  return MOVING.includes(status);
}

/** Whether an import has come or was taken back since its list was looked at before. */
export function hasChangedData(
  before: readonly Pick<ImportSummary, 'id' | 'status'>[],
  now: readonly Pick<ImportSummary, 'id' | 'status'>[],
): boolean {
  return now.some(
    ({ id, status }) =>
      (status === 'done' || status === 'undone') && before.find((one) => one.id === id)?.status !== status,
  );
}

/** Whether an import can be stopped. */
export function canStop({ status }: Pick<ImportSummary, 'status'>): boolean {
  return ['receiving', 'received', 'checking', 'checked', 'queued', 'running'].includes(status);
}

/** Whether an import's file can be looked at and imported (again). */
export function canOpen({ status, isKept }: Pick<ImportSummary, 'status' | 'isKept'>): boolean {
  return isKept && !MOVING.includes(status) && status !== 'done';
}

/** How far an import is read, from 0 to 1; null where there is nothing to say. */
export function shareRead({ status, bytes, bytesRead }: ImportSummary): number | null {
  if (status !== 'running' && status !== 'checking') return null;
  return bytes > 0 ? Math.min(1, bytesRead / bytes) : null;
}

const STATE_WORDS: Record<ImportSummary['status'], string> = {
  receiving: 'is sent',
  received: 'waits for you',
  checking: 'is checked',
  checked: 'checked',
  queued: 'waits',
  running: 'comes in',
  deriving: 'measures follow',
  done: 'done',
  refused: 'has bad rows',
  failed: 'cannot be read',
  cancelled: 'stopped',
  undoing: 'is taken back',
  undone: 'taken back',
};

/** The state of an import in words. */
export function stateWords({ status }: Pick<ImportSummary, 'status'>): string {
  return STATE_WORDS[status];
}

const COUNT_WORDS: Record<string, string> = {
  added: 'new',
  changed: 'changed',
  unchanged: 'as they were',
  leftOut: 'left out for a bad row',
  rebuilt: 'measured anew',
};

/** What an import changed, or a check would change, in words; records of most files, snapshots of chains. */
export function countWords({ counts, what }: Pick<ImportSummary, 'counts' | 'what'>): string {
  const thing = what === 'chain' ? 'snapshots' : 'records';
  const parts = Object.entries(counts)
    .filter(([, count]) => count > 0)
    .map(([name, count]) => {
      const isSnapshot = name === 'leftOut' || name === 'rebuilt';
      return `${count.toLocaleString('en').replaceAll(',', '\u2009')} ${isSnapshot && thing === 'records' ? 'snapshots ' : ''}${COUNT_WORDS[name] ?? name}`;
    });
  return parts.length > 0 ? `${thing}: ${parts.join(', ')}` : 'nothing changes';
}

const UNITS = ['B', 'kB', 'MB', 'GB'];

/** Bytes with a unit: 74 MB. */
export function sizeWords(bytes: number): string {
  let value = bytes;
  let unit = 0;
  while (value >= 1000 && unit < UNITS.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${unit === 0 || value >= 100 ? Math.round(value) : value.toFixed(1)} ${UNITS[unit]}`;
}

/**
 * A matching after one column of the file was given another of ours, or none. No two columns stand for the same.
 *
 * @param columns ours by theirs
 */
export function matched(
  columns: Readonly<Record<string, string>>,
  theirs: string,
  ours: string | null,
): Record<string, string> {
  const others = Object.entries(columns).filter(([name, value]) => name !== theirs && value !== ours);
  return Object.fromEntries(ours === null ? others : [...others, [theirs, ours]]);
}

/** Columns of our own that each kind of file knows; the required ones first. */
export type Layouts = Record<string, { required: readonly string[]; optional: readonly string[] }>;

/** Shade of a session by its quality: 1 poor, up to 4. */
export function shadeOf(quality: number | null): 1 | 2 | 3 | 4 {
  if (quality === null || quality < 50) return 1;
  return quality < 70 ? 2 : quality < 85 ? 3 : 4;
}

/** What is held, a row per underlying and session that has something. */
export function heldTable({ sessions, underlyings }: Holdings): DataTable {
  return {
    columns: [
      { name: 'symbol', type: 'text' },
      { name: 'date', type: 'day' },
      ...numberColumns(['snapshots', 'contracts', 'usable', 'quality']),
    ],
    rows: underlyings.flatMap((row) =>
      sessions.flatMap((date, i) =>
        row.moments[i]! > 0
          ? [[row.symbol, date, row.moments[i]!, row.contracts[i]!, row.usable[i]!, row.quality[i] ?? null]]
          : [],
      ),
    ),
  };
}

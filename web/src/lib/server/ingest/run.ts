import type { RowFault } from '../db';
import { CellError, storable } from './cells';
import type { MatchedHeader } from '../../layouts';
import type { WriteCounts } from './records';

/** Faults kept with an import; further ones are counted only. */
const MOST_FAULTS = 5000;
const LONGEST_VALUE = 200;

/** The running state of an import, and what it says of bad rows. */
export class Run {
  rows = 0;
  badRows = 0;
  bytesRead = 0;
  format: string | null = null;
  readonly faults: RowFault[] = [];
  counts: Record<string, number> = {};
  header: MatchedHeader | null = null;

  constructor(readonly importId: number) {}

  /**
   * Notes a bad row.
   *
   * @param raw the cell as it stands in the file, where it was read by other conventions
   * @throws whatever is no fault of a cell
   */
  fault(row: number, error: unknown, raw?: (column: string) => string | undefined): void {
    if (!(error instanceof CellError)) throw error;
    this.badRows++;
    if (this.faults.length >= MOST_FAULTS) return;
    const value = storable((raw?.(error.column) ?? error.value).slice(0, LONGEST_VALUE));
    this.faults.push({ row, column: error.column, value, reason: error.reason });
  }

  count(counts: WriteCounts): void {
    for (const [name, number] of Object.entries(counts)) this.counts[name] = (this.counts[name] ?? 0) + number;
  }
}

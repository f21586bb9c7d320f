import { TableError } from '../table';

/** No table has more columns; what is wider is something else, and everything that is done by column takes its time. */
export const MOST_COLUMNS = 512;

/** Refuses a header that no table has. @throws TableError with how many columns it names */
export function checkWidth(columns: number, hasMore = false): void {
  if (columns > MOST_COLUMNS)
    throw new TableError(
      `the header has ${columns}${hasMore ? ' or more' : ''} columns; at most ${MOST_COLUMNS} are read`,
    );
}

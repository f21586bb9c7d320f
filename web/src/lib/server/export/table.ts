import { parseBody } from '../api/body';
import { ApiError } from '../api/problem';
import { ViewTable } from '../../api/schemas';
import { ExportError, writeTable, type ExportFormat } from './write';

const BATCH = 5000;

/**
 * A table that was sent, as a file of another format.
 *
 * @throws ApiError 400 for what is no table, 422 for one that the format cannot hold
 */
export async function writeSentTable(name: string, format: ExportFormat, body: Buffer): Promise<Uint8Array> {
  const { columns, rows } = parseBody(body, ViewTable);
  const inBatches = async function* () {
    for (let at = 0; at < rows.length; at += BATCH) yield rows.slice(at, at + BATCH);
  };
  const chunks: Buffer[] = [];
  try {
    for await (const chunk of writeTable({ name, columns, rows: inBatches() }, format)) {
      chunks.push(typeof chunk === 'string' ? Buffer.from(chunk) : (chunk as Buffer));
    }
  } catch (error) {
    // A day that is none, say, where the format has days.
    const reason = error instanceof ExportError || error instanceof RangeError ? error.message : null;
    if (reason === null) throw error;
    throw new ApiError(422, 'Cannot be exported so', reason);
  }
  return Buffer.concat(chunks);
}

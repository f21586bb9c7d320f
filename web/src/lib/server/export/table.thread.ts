/** Writes large tables that were sent as files, away from the thread that answers. */
import { orRefusal, type Refusal } from '../api/refusal';
import { writeSentTable } from './table';
import type { ExportFormat } from './write';

export interface TableTask {
  name: string;
  format: ExportFormat;
  body: Uint8Array;
}

export default function write({ name, format, body }: TableTask): Promise<Uint8Array | Refusal> {
  return orRefusal(() => writeSentTable(name, format, Buffer.from(body)));
}

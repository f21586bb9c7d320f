import { distanceOf, type Print } from '$lib/data/tape';
import { numberColumns, type DataTable } from '$lib/tables';

/** The prints as a file. */
export function tapeTable(prints: readonly Print[]): DataTable {
  return {
    columns: [
      { name: 'time', type: 'instant' },
      { name: 'expiry', type: 'day' },
      ...numberColumns(['strike']),
      { name: 'side', type: 'text' },
      ...numberColumns(['price', 'size', 'theory', 'distance', 'bid', 'ask']),
      { name: 'group', type: 'text' },
      { name: 'settlement', type: 'text' },
    ],
    rows: prints.map((print) => [
      ...[print.time, print.expiry, print.strike, print.side === 'call' ? 'C' : 'P', print.price, print.size],
      ...[print.theory, distanceOf(print), print.bid, print.ask, print.group ?? '', print.settlement ?? ''],
    ]),
  };
}

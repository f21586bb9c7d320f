/** Books and undoes trades one after the other until it is killed: what `book-kills.test.ts` looks at afterwards. */
import { openDatabase } from '../../web/src/lib/server/db';
import { bookFills, openPosition, turnBook } from '../../web/src/lib/server/book';

const database = openDatabase(process.env.DATABASE_URL!);
const book = Number(process.env.BOOK);
const time = '2031-03-12T15:00:00Z';
const leg = (strike: number) => ({ expiry: '2031-04-17', settlement: 'pm' as const, strike, side: 'put' as const });
const fill = (strike: number, quantity: number) => ({
  ...{ time, leg: leg(strike), quantity, price: 1.25, fee: 0.5, tag: '' },
  ...{ closes: false, assigned: false },
});

for (let n = 0; ; n++) {
  const opened = await openPosition(database, {
    ...{ book, symbol: 'DRILL', name: `${process.pid} ${n}`, tags: [], note: '' },
    fills: [fill(90, -1), fill(80, 1)],
  });
  await bookFills(
    database,
    opened!.id,
    [fill(90, 1), fill(80, -1)].map((one) => ({ ...one, closes: true })),
    { pathOf: (at) => `fills.${at}` },
  );
  if (n % 3 === 2) await turnBook(database, book, 'undo');
  // From now on it may be killed at any time: connections are open, and code is compiled.
  if (n === 0) console.log('ready');
}

/** Works out what books are worth, which takes too long for the thread that answers; what it has read of the market it keeps. */
import { openDatabase, type Database } from '../db';
import { HeldBooks } from './held';
import { Markets } from '../market/known-markets';
import { bookAnswer, type BookTask } from './work';

const CONNECTIONS = 2;

let opened: { url: string; database: Database; markets: Markets; books: HeldBooks } | null = null;

/** @returns the answer as the JSON that is sent; null where there is no such book */
export default async function work({ url, task }: { url: string; task: BookTask }): Promise<Uint8Array | null> {
  if (opened?.url !== url) {
    const database = openDatabase(url, { connections: CONNECTIONS });
    const markets = new Markets(database);
    opened = { url, database, markets, books: new HeldBooks(database, markets) };
  }
  const answer = await bookAnswer(opened.database, opened.markets, opened.books, task);
  return answer && Buffer.from(JSON.stringify(answer));
}

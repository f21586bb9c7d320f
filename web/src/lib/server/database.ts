import { openDatabase, type Database } from './db';
import { FeedHub } from './feed';
import { heldColumns, type HeldColumns } from './market';

let opened: Database | null = null;

/** The database of the running application, from DATABASE_URL; opened when it is first asked for. */
export function database(): Database {
  if (!opened) {
    const url = process.env.DATABASE_URL;
    if (!url) throw new Error('DATABASE_URL is not set: start Umwelt with npm start');
    opened = openDatabase(url);
  }
  return opened;
}

/** Measures and bars of the database as this process keeps them. */
export const held = (): HeldColumns => heldColumns(database());

let hub: FeedHub | null = null;

/** The one that tells how the simulated feed goes on, to all who listen to this process. */
export function feedHub(): FeedHub {
  hub ??= new FeedHub(database());
  return hub;
}

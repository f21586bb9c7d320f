import { KeptAnswers } from './api/kept';
import { openDatabase, type Database } from './db';
import { FeedHub } from './feed';
import { Finder } from './finder';
import { heldColumns, HoldingsCounts, StructuresHub, type HeldColumns } from './market';

let opened: Database | null = null;
const UPLOAD_CONNECTIONS = 2;
/** How long a person at a screen may be kept waiting. */
const LONGEST_MS = 30_000;

/** The database of the running application, from DATABASE_URL; opened when it is first asked for. */
export function database(): Database {
  opened ??= openDatabase(databaseUrl(), { longest: LONGEST_MS });
  return opened;
}

function databaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set: start Umwelt with npm start');
  return url;
}

let openedForUploads: Database | null = null;

/** The same database over connections of its own, which files that come in wait for: what is read does not wait with them. */
export function uploadDatabase(): Database {
  openedForUploads ??= openDatabase(databaseUrl(), { connections: UPLOAD_CONNECTIONS, longest: LONGEST_MS });
  return openedForUploads;
}

/** Measures and bars of the database as this process keeps them. */
export const held = (): HeldColumns => heldColumns(database());

let counts: HoldingsCounts | null = null;

/** Counts of what is held as this process keeps them. */
export function holdingsCounts(): HoldingsCounts {
  counts ??= new HoldingsCounts(database());
  return counts;
}

let answers: KeptAnswers | null = null;

/** Answers of this process, kept as long as they are true. */
export function keptAnswers(): KeptAnswers {
  answers ??= new KeptAnswers(database());
  return answers;
}

let hub: FeedHub | null = null;

/** Broadcasts the simulated feed to all listeners of this process. */
export function feedHub(): FeedHub {
  hub ??= new FeedHub(database());
  return hub;
}

let kept: StructuresHub | null = null;

/** Broadcasts what kept structures are worth to all listeners of this process. */
export function structuresHub(): StructuresHub {
  kept ??= new StructuresHub(database());
  return kept;
}

let finding: Finder | null = null;

/** Looks for structures, and keeps what was found. */
export function finder(): Finder {
  finding ??= new Finder(database(), held());
  return finding;
}

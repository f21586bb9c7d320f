/** Looks through underlyings, and orders what was found, both of which take too long for the thread that answers. */
import type { Found } from '@umwelt/core';
import { openDatabase, type Database } from '../db';
import { Markets } from '../market/known-markets';
import { finderAnswer } from './answer';
import { lookThrough } from './look';
import type { FindTask, RankTask, Skipped } from './work';

const CONNECTIONS = 2;

let opened: { url: string; database: Database; markets: Markets } | null = null;

/** @returns what was found on an underlying or why nothing was; or an answer as the JSON that is sent */
export default async function work(task: FindTask | RankTask): Promise<Found | Skipped | Uint8Array> {
  if (task.do === 'rank') return Buffer.from(JSON.stringify(finderAnswer(task)));
  if (opened?.url !== task.url) {
    const database = openDatabase(task.url, { connections: CONNECTIONS });
    opened = { url: task.url, database, markets: new Markets(database) };
  }
  return lookThrough(opened.database, opened.markets, task);
}

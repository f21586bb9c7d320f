import { statfs } from 'node:fs/promises';
import { setTimeout as sleep } from 'node:timers/promises';
import { causeOf } from './errors';

/**
 * Under so much room nothing more is taken in: the database needs some to bring to an end what it does, and without any for its
 * log it ends itself.
 */
const RESERVE = 100e6;
/** Work that has waited goes on with somewhat more, so that it does not begin and wait by turns. */
const ENOUGH = 1.5 * RESERVE;
const LOOK_MS = 1000;
/** Codes of the database and of the system for a disk that is full. */
const FULL = ['53100', 'ENOSPC'];

/** The disk of the database has no room for what is to be written. */
export class RoomError extends Error {}

/** Where the files of the database lie, known where the application has started it. */
const folder = (): string | undefined => process.env.UMWELT_DATABASE_FOLDER || undefined;

/** Room on the disk of the database, in bytes; boundless where that is another machine's. */
async function roomLeft(): Promise<number> {
  const at = folder();
  if (!at) return Infinity;
  const { bavail, bsize } = await statfs(at);
  return bavail * bsize;
}

/**
 * Refuses what would fill the disk of the database.
 *
 * @param wanted bytes that are to be written
 * @throws RoomError naming the disk
 */
export async function checkRoom(wanted = 0): Promise<void> {
  const left = await roomLeft();
  if (left >= RESERVE + wanted) return;
  const megabytes = (bytes: number) => `${Math.floor(bytes / 1e6)} MB`;
  const need = wanted >= 1e6 ? `${megabytes(wanted)} and ${megabytes(RESERVE)} to work with` : megabytes(RESERVE);
  throw new RoomError(`the disk of the database (${folder()}) has ${megabytes(left)} left, and ${need} are needed`);
}

/** Whether the database or the system says that a disk is full. */
export const isDiskFull = (error: unknown): boolean =>
  FULL.includes((causeOf(error) as NodeJS.ErrnoException | null)?.code ?? '');

/** Whether something failed for want of room on the disk, seen before or told by the database. */
export async function isForRoom(error: unknown): Promise<boolean> {
  if (causeOf(error) instanceof RoomError || isDiskFull(error)) return true;
  // A database that cannot write its log ends, and says no more why.
  return (await roomLeft()) < RESERVE;
}

/**
 * Waits until there is room again.
 *
 * @param onWait called once a second meanwhile, with what is to be said; its failures do not matter
 */
export async function untilRoom(onWait: (words: string) => Promise<unknown>): Promise<void> {
  for (;;) {
    const left = await roomLeft();
    if (left >= ENOUGH) return;
    const words = `waits for room: the disk of the database (${folder()}) has ${Math.floor(left / 1e6)} MB left`;
    await onWait(words).catch(() => undefined);
    await sleep(LOOK_MS);
  }
}

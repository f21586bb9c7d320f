/**
 * Threads beside the one that answers: where their programs lie, and pools of them. A program is a file `*.thread.ts`;
 * scripts/lib/build.mjs bundles all of them.
 */
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';

/** The program of a thread: its file, and its other settings. */
export interface Program {
  filename: string;
  argv: string[];
}

/**
 * Where the program of a thread lies: bundled in the folder UMWELT_THREADS, else its source with a loader.
 *
 * @param name its path below this folder's parent, without `.thread.ts`
 */
export function threadProgram(name: string): Program {
  const bundles = process.env.UMWELT_THREADS;
  if (bundles) return { filename: join(bundles, `${name}.js`), argv: [] };
  const source = new URL(`../${name}.thread.ts`, import.meta.url);
  return { filename: fileURLToPath(new URL('./loader.mjs', import.meta.url)), argv: [source.href] };
}

/** Less urgent than what somebody waits for at a screen. */
const NICE = 10;
/** Idle time after which a thread ends. */
const IDLE_MS = 60_000;

/**
 * A pool of threads that run a program, started as they are needed.
 *
 * @param megabytes that the objects of each may take; one that wants more ends, and its task fails
 * @param options `isAwaited`: somebody waits for its results at a screen, so its threads stay and are as urgent as any;
 *   `youngMegabytes`: room for what lives a moment only, collected the less often the more there is
 */
export function openPool(
  name: string,
  maxThreads: number,
  megabytes: number,
  { isAwaited = false, youngMegabytes }: { isAwaited?: boolean; youngMegabytes?: number } = {},
): Piscina {
  const pool = new Piscina({
    ...threadProgram(name),
    minThreads: isAwaited ? maxThreads : 0,
    maxThreads,
    idleTimeout: IDLE_MS,
    niceIncrement: isAwaited ? 0 : NICE,
    // Threads talk while a task is under way.
    atomics: 'disabled',
    resourceLimits: { maxOldGenerationSizeMb: megabytes, maxYoungGenerationSizeMb: youngMegabytes },
  });
  // Whoever waits for a task hears of it; a thread that breaks between two of them is replaced.
  pool.on('error', (error) => console.error(error));
  return pool;
}

/** Whether a task failed since its thread wanted more memory than it may have. */
export function isOutOfMemory(error: unknown): boolean {
  return error instanceof Error && (error as NodeJS.ErrnoException).code === 'ERR_WORKER_OUT_OF_MEMORY';
}

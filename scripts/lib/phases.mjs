/** What the scripts say while they work: a line per phase with its time, a bar where it takes longer. */

import { noteStep } from './progress.mjs';

const isTerminal = process.stdout.isTTY === true;
const BAR_WIDTH = 24;
const BLOCK_WIDTH = 5;
const SILENT_MS = 2000;

/** @param {number} ms */
const seconds = (ms) => `${(ms / 1000).toFixed(1)} s`;

/**
 * A bar that is filled to a share, or one with a block that wanders where nobody knows how far the work is.
 *
 * @param {number} share from 0 to 1, negative for unknown
 * @param {number} elapsed milliseconds
 */
function bar(share, elapsed) {
  if (share >= 0) {
    const filled = Math.round(BAR_WIDTH * share);
    return `${'█'.repeat(filled)}${'░'.repeat(BAR_WIDTH - filled)} ${Math.round(100 * share)} %`;
  }
  const room = BAR_WIDTH - BLOCK_WIDTH;
  const step = Math.floor(elapsed / 200) % (2 * room);
  const at = step < room ? step : 2 * room - step;
  return '░'.repeat(at) + '█'.repeat(BLOCK_WIDTH) + '░'.repeat(room - at);
}

/** Raised to end a script with a message for the user, without a stack. */
export class Stop extends Error {}

/**
 * Runs one phase and says what it did.
 *
 * @template T
 * @param {string} name
 * @param {(progress: (done: number, total: number, note?: string) => void, say: (result: string) => void) => Promise<T> | T} work
 * @returns {Promise<T>}
 */
export async function phase(name, work) {
  const started = performance.now();
  noteStep(name, {});
  let result = '';
  let share = -1;
  let note = '';
  let lastPrinted = '';
  const draw = () => {
    const elapsed = performance.now() - started;
    if (elapsed < SILENT_MS) return;
    if (isTerminal) process.stdout.write(`\r\x1b[K  ${name}  ${bar(share, elapsed)}  ${seconds(elapsed)}  ${note}`);
    else {
      // Without a terminal a line at every quarter will do.
      const line = share >= 0 ? `  ${name}  ${Math.floor(share * 4) * 25} %` : `  ${name}  …`;
      if (line !== lastPrinted) console.log(line);
      lastPrinted = line;
    }
  };
  const timer = setInterval(draw, 200);
  const progress = (/** @type {number} */ done, /** @type {number} */ total, text = '') => {
    share = total > 0 ? Math.min(1, done / total) : -1;
    note = text;
    noteStep(name, { share, note });
  };
  try {
    const value = await work(progress, (text) => (result = text));
    const line = `✓ ${name.padEnd(18)} ${result ? `${result}, ` : ''}${seconds(performance.now() - started)}`;
    process.stdout.write(isTerminal ? `\r\x1b[K${line}\n` : `${line}\n`);
    // The page of the start is for everybody: it names no folders.
    noteStep(name, { state: 'done', note: '' });
    return value;
  } catch (error) {
    noteStep(name, { state: 'failed' });
    process.stdout.write(isTerminal ? `\r\x1b[K✗ ${name}\n` : `✗ ${name}\n`);
    throw error;
  } finally {
    clearInterval(timer);
  }
}

/**
 * Ends the process after a failure: the message alone where it was made for the user.
 *
 * @param {unknown} error
 * @returns {never}
 */
export function fail(error) {
  console.error(error instanceof Stop ? `\n${error.message}` : error);
  process.exit(1);
}

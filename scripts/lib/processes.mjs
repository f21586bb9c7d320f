import { spawn, spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { Stop } from './phases.mjs';

/** @type {Set<import('node:child_process').ChildProcess>} */
const running = new Set();

/**
 * Runs a command to its end.
 *
 * @param {string} command
 * @param {string[]} args
 * @param {{ cwd?: string, env?: NodeJS.ProcessEnv, show?: boolean, uid?: number, gid?: number }} [options] `show`
 *   lets its output through, else it is kept for the error
 * @returns {Promise<string>} what it printed
 */
export function run(command, args, options = {}) {
  const { show, ...rest } = options;
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      ...rest,
      stdio: ['ignore', show ? 'inherit' : 'pipe', show ? 'inherit' : 'pipe'],
    });
    running.add(child);
    let output = '';
    const collect = (/** @type {Buffer} */ chunk) => {
      output += chunk;
    };
    child.stdout?.on('data', collect);
    child.stderr?.on('data', collect);
    child.on('error', (error) => reject(new Stop(`${command} could not be started: ${error.message}`)));
    child.on('close', (code, signal) => {
      running.delete(child);
      if (code === 0) resolve(output);
      else reject(new Stop(`${command} ${args.join(' ')} ended with ${signal ?? code}\n${output.slice(-4000)}`));
    });
  });
}

/** Ends the commands that are still running. */
export function stopChildren() {
  for (const child of running) child.kill('SIGTERM');
}

/** @param {number} pid */
export function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return /** @type {NodeJS.ErrnoException} */ (error).code === 'EPERM';
  }
}

/** The command line of a process, or nothing when it is gone. @param {number} pid */
export function commandLine(pid) {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ');
  } catch {
    return '';
  }
}

/** Whether a command ends well. @param {string} command @param {string[]} args */
export function succeeds(command, args, options = {}) {
  return spawnSync(command, args, { stdio: 'ignore', ...options }).status === 0;
}

/** Many who read chains at a time, and many who listen to the feed, asked of a server of its own. */
import { readFileSync } from 'node:fs';
import { Agent, get } from 'node:http';
import { performance } from 'node:perf_hooks';

const CLIENTS = 20;
const STREAMS = 200;

/**
 * Reads an answer to its end. @param {string} url @param {Agent} agent
 * @returns {Promise<{ ms: number, bytes: number }>}
 */
function read(url, agent) {
  const started = performance.now();
  return new Promise((resolve, reject) => {
    get(url, { agent, headers: { 'accept-encoding': 'gzip' } }, (answer) => {
      let bytes = 0;
      answer.on('data', (/** @type {Buffer} */ chunk) => (bytes += chunk.length));
      answer.on('end', () => {
        if (answer.statusCode === 200) resolve({ ms: performance.now() - started, bytes });
        else reject(new Error(`${url} answered ${answer.statusCode}`));
      });
      answer.on('error', reject);
    }).on('error', reject);
  });
}

/** @param {number[]} times */
function spread(times) {
  const sorted = times.toSorted((a, b) => a - b);
  const at = (/** @type {number} */ share) =>
    Math.round(10 * (sorted[Math.floor(share * (sorted.length - 1))] ?? NaN)) / 10;
  return { requests: sorted.length, median: at(0.5), p95: at(0.95), max: at(1) };
}

/** @param {number} pid */
function memoryOf(pid) {
  return Math.round(Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]) / 1000);
}

/**
 * @param {string} base address of the server
 * @param {number | undefined} pid of the server
 * @param {{ seconds: number, report: (name: string, values: Record<string, number | string>) => void }} options
 */
export async function benchLoad(base, pid, { seconds, report }) {
  const agent = new Agent({ keepAlive: true, maxSockets: 1000 });
  const api = `${base}/api/v1`;
  const { underlyings } = /** @type {any} */ (await (await fetch(`${api}/underlyings`)).json());
  const chains = underlyings
    .filter((/** @type {{ contracts: number | null }} */ { contracts }) => contracts)
    .map((/** @type {{ symbol: string }} */ { symbol }) => `${api}/underlyings/${symbol}/chain`);
  /** @param {number} until @param {number} first */
  const client = async (until, first) => {
    const times = [];
    for (let i = first; performance.now() < until; i++) times.push((await read(chains[i % chains.length], agent)).ms);
    return times;
  };
  // The last of what a server makes ready at its start.
  await (await fetch(`${api}/holdings`)).arrayBuffer();
  // Each chain for the first time, by twenty who begin at different ones.
  const cold = await Promise.all(
    Array.from({ length: CLIENTS }, async (_, n) => {
      const times = [];
      for (let i = n; i < chains.length; i += CLIENTS) times.push((await read(chains[i], agent)).ms);
      return times;
    }),
  );
  report('load_20_clients_cold_ms', spread(cold.flat()));
  const reads = async (/** @type {number} */ length) => {
    const until = performance.now() + 1000 * length;
    return (await Promise.all(Array.from({ length: CLIENTS }, (_, n) => client(until, n * 7)))).flat();
  };
  const one = performance.now() + 3000;
  report('load_1_client_ms', spread(await client(one, 0)));
  report('load_20_clients_ms', spread(await reads(seconds)));
  await fetch(`${api}/feed`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ action: 'start' }),
  });
  const streams = await Promise.all(
    Array.from({ length: STREAMS }, async (_, n) => {
      const symbol = underlyings[n % underlyings.length].symbol;
      const stopping = new AbortController();
      const { body } = await fetch(`${api}/stream?symbols=${symbol}`, { signal: stopping.signal });
      const state = { bytes: 0, stop: () => stopping.abort() };
      const listen = async () => {
        for await (const chunk of /** @type {ReadableStream<Uint8Array>} */ (body)) state.bytes += chunk.length;
      };
      listen().catch(() => undefined);
      return state;
    }),
  );
  const before = pid && memoryOf(pid);
  report('load_20_clients_200_streams_ms', spread(await reads(seconds)));
  const silent = streams.filter(({ bytes }) => bytes === 0).length;
  report('load_streams', { silent, megabytes: Math.round(streams.reduce((sum, { bytes }) => sum + bytes, 0) / 1e6) });
  if (pid) report('load_server_megabytes', { before: before ?? NaN, after: memoryOf(pid) });
  for (const { stop } of streams) stop();
  agent.destroy();
}

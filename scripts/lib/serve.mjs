import { createServer } from 'node:http';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { makeGate, tokenFor } from './gate.mjs';
import { allowedHosts } from './hosts.mjs';
import { ROOT } from './packages.mjs';
import { Stop } from './phases.mjs';

/** What every answer tells a browser, beside the policy for scripts and styles of the pages (web/svelte.config.js). */
const HEADERS = Object.entries({
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'no-referrer',
  'permissions-policy': 'camera=(), geolocation=(), microphone=(), payment=(), usb=()',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
});

/** @param {import('node:http').ServerResponse} response */
function refuseHost(response) {
  const detail = 'this server is not asked by that name; UMWELT_HOSTS names others by which it may be';
  response.writeHead(421, { 'content-type': 'application/problem+json', connection: 'close' });
  response.end(JSON.stringify({ type: 'about:blank', status: 421, title: 'Misdirected request', detail }));
}

/** What cannot be read as a request at all. @type {Record<string, [number, string, string]>} */
const UNREAD = {
  HPE_HEADER_OVERFLOW: [431, 'Request Header Fields Too Large', 'the address or the headers are longer than 16 kB'],
  ERR_HTTP_REQUEST_TIMEOUT: [408, 'Request Timeout', 'the head of the request did not come in time'],
};

/** @param {NodeJS.ErrnoException} error @param {import('node:stream').Duplex} socket */
function refuseUnread(error, socket) {
  if (error.code === 'ECONNRESET' || !socket.writable) {
    socket.destroy();
    return;
  }
  const [status, title, detail] = UNREAD[error.code ?? ''] ?? [400, 'Bad Request', 'this is no request of HTTP'];
  const body = JSON.stringify({ type: 'about:blank', status, title, detail });
  const head = [
    `HTTP/1.1 ${status} ${title}`,
    'content-type: application/problem+json',
    `content-length: ${Buffer.byteLength(body)}`,
    'connection: close',
  ];
  socket.end(`${head.join('\r\n')}\r\n\r\n${body}`);
}

/** How long a body is still read after its answer was sent. */
const LINGER_MS = 10_000;

/**
 * Lets a body that was not wanted come to its end, unread: whoever still sends it when the connection is closed would never
 * get to see why.
 *
 * @param {import('node:http').IncomingMessage} request
 */
function letEnd(request) {
  if (request.complete) return;
  request.removeAllListeners('data');
  request.on('error', () => undefined);
  request.resume();
  const late = setTimeout(() => request.destroy(), LINGER_MS);
  request.on('close', () => clearTimeout(late));
}

/**
 * Serves the built application in this process, so that it ends with it.
 *
 * @param {string} host
 * @param {number} port
 * @param {string} databaseUrl
 * @returns {Promise<{ stop: () => Promise<void> }>}
 */
export async function serveBuild(host, port, databaseUrl) {
  Object.assign(process.env, {
    DATABASE_URL: databaseUrl,
    // Imports are streamed to the database and may be larger than any limit in bytes.
    BODY_SIZE_LIMIT: 'Infinity',
    PROTOCOL_HEADER: 'x-forwarded-proto',
  });
  const { handler } = await import(pathToFileURL(join(ROOT, 'web/build/handler.js')).href);
  const isAllowed = allowedHosts({ ...process.env, HOST: host });
  const token = tokenFor(host, process.env.UMWELT_TOKEN);
  const mayPass = token === null ? null : makeGate(token);
  const server = createServer((request, response) => {
    for (const [name, value] of HEADERS) response.setHeader(name, value);
    if (!isAllowed(request.headers.host)) {
      refuseHost(response);
      return;
    }
    response.on('finish', () => letEnd(request));
    request.headers['x-forwarded-proto'] ??= 'http';
    if (mayPass === null) handler(request, response);
    else
      mayPass(request, response).then(
        (passes) => passes && handler(request, response),
        () => response.destroy(),
      );
  });
  server.on('clientError', refuseUnread);
  // A long import must not be cut off.
  server.requestTimeout = 0;
  // Whoever asks now and then finds his connection open still, and does not meet its end with his next request.
  server.keepAliveTimeout = 75_000;
  await new Promise((resolve, reject) => {
    server.on('error', (error) => {
      const { code } = /** @type {NodeJS.ErrnoException} */ (error);
      reject(
        new Stop(
          code === 'EADDRINUSE'
            ? `Port ${port} is taken by another program. Start with another one: PORT=4891 npm start`
            : `Cannot listen on ${host}:${port}: ${error.message}`,
        ),
      );
    });
    server.listen(port, host, () => resolve(undefined));
  });
  return {
    stop: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}

import { createServer } from 'node:http';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { ROOT } from './packages.mjs';
import { Stop } from './phases.mjs';

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
  const server = createServer((request, response) => {
    request.headers['x-forwarded-proto'] ??= 'http';
    handler(request, response);
  });
  // A long import must not be cut off.
  server.requestTimeout = 0;
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

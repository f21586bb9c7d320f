import { createServer } from 'node:http';

/** A phase of the start as its page shows it. @typedef {{ name: string, share: number, note: string, state: 'running' | 'done' | 'failed' }} Step */

/** What has been begun, in that order. @type {Map<string, Step>} */
const steps = new Map();

/** Notes how far a phase is. @param {string} name @param {Partial<Step>} change */
export function noteStep(name, change) {
  steps.set(name, { ...(steps.get(name) ?? { name, share: -1, note: '', state: 'running' }), ...change });
}

const ESCAPES = /** @type {Record<string, string>} */ ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' });
/** @param {string} text */
const escaped = (text) => text.replace(/[&<>"]/g, (letter) => ESCAPES[letter] ?? letter);

/** The page that says how far the start is; it looks again every second, and is the application once that answers. */
function page() {
  const rows = [...steps.values()].map(({ name, share, note, state }) => {
    const mark = { running: '○', done: '●', failed: '◆' }[state];
    const how = state === 'running' && share >= 0 ? `${Math.round(100 * share)} %` : '';
    return `<li class="${state}"><b>${mark}</b> ${escaped(name)} <i>${how} ${escaped(note)}</i></li>`;
  });
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta http-equiv="refresh" content="1">
<title>Umwelt is starting</title>
<style>
  body { margin: 0; display: grid; place-items: center; height: 100vh; background: #edf1f0; color: #14232b; font: 15px/1.7 sans-serif }
  main { padding: 28px 40px; border: 1px solid #c9d3d2; border-radius: 8px; background: #fafcfb }
  h1 { margin: 0 0 10px; font-size: 20px } ul { margin: 0; padding: 0; list-style: none } i { color: #52646c; font-style: normal }
  .done b { color: #0e7c7b } .failed b { color: #b4571e }
  p { margin: 14px 0 0; color: #52646c }
</style>
<main>
  <h1>Umwelt is starting</h1>
  <ul>${rows.join('')}</ul>
  <p>The first start installs, builds and makes a demo market: some minutes. This page becomes the application by itself.</p>
</main>
</html>`;
}

/**
 * Answers where the application will, until it does: people with a page that says how far the start is, programs with 503.
 *
 * @param {string} host
 * @param {number} port
 * @returns {Promise<{ stop: () => Promise<void> } | null>} null where somebody else listens there
 */
export function showProgress(host, port) {
  const server = createServer((request, response) => {
    response.setHeader('cache-control', 'no-store');
    response.setHeader('retry-after', '1');
    // Nobody waits on a connection that ends with this server.
    response.setHeader('connection', 'close');
    if (request.url?.startsWith('/api/')) {
      response.writeHead(503, { 'content-type': 'application/problem+json' });
      response.end(JSON.stringify({ title: 'Service Unavailable', status: 503, detail: 'Umwelt is starting' }));
      return;
    }
    response.writeHead(503, { 'content-type': 'text/html; charset=utf-8' });
    response.end(page());
  });
  return new Promise((resolve) => {
    server.once('error', () => resolve(null));
    server.listen(port, host, () =>
      resolve({
        stop: () =>
          new Promise((done) => {
            server.close(() => done());
            server.closeAllConnections();
          }),
      }),
    );
  });
}

import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { problem } from '$lib/server/api';
import { prepareBooks } from '$lib/server/book';
import { database, held, holdingsCounts } from '$lib/server/database';
import { prepareFinder } from '$lib/server/finder';
import { prepareChains, prepareUniverse } from '$lib/server/market';

/** What is asked for first is made ready while nobody waits for it yet. */
export const init: ServerInit = () => {
  // Whoever asks later meets the failure himself.
  prepareUniverse(held())
    .then(() => prepareChains(database()))
    .then(() => prepareBooks(database()))
    .then(() => prepareFinder(database()))
    .then(() => holdingsCounts().holdings())
    .catch(() => undefined);
};

const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS']);

/** Whether a browser sends this from a page of another origin. Scripts send no Origin. */
function isForeign(request: Request, host: string): boolean {
  const origin = request.headers.get('origin');
  if (SAFE_METHODS.has(request.method) || origin === null) return false;
  return !URL.canParse(origin) || new URL(origin).host !== host;
}

const TITLES: Record<number, string> = { 404: 'Not found', 405: 'Method not allowed' };

export const handle: Handle = async ({ event, resolve }) => {
  if (isForeign(event.request, event.request.headers.get('host') ?? event.url.host)) {
    return problem(403, 'Forbidden', 'requests from pages of another origin are not answered');
  }
  const response = await resolve(event);
  const isProblem = response.headers.get('content-type')?.startsWith('application/problem+json');
  if (!event.url.pathname.startsWith('/api/v1') || response.status < 400 || isProblem) return response;
  // What the framework itself refuses, such as an unknown path, is reported like any other error of the API.
  const { status } = response;
  return problem(
    status,
    TITLES[status] ?? 'Error',
    `${event.request.method} ${event.url.pathname} is not answered here`,
  );
};

export const handleError: HandleServerError = ({ error, status }) => {
  if (status >= 500) console.error(error);
  return { message: status === 404 ? 'There is no such page.' : 'The server failed; its log says why.' };
};

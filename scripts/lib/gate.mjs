import { createHash, createHmac, timingSafeEqual } from 'node:crypto';
import { isIPv4 } from 'node:net';
import { Stop } from './phases.mjs';

/** Who knows a shorter one has guessed it. */
const SHORTEST_TOKEN = 16;
const COOKIE = 'umwelt-session';
const SESSION_SECONDS = 30 * 86_400;
/** Wrong tokens from one address, and from all together, in so long a time. */
const TRIES = 10;
const ALL_TRIES = 100;
const TRIES_MS = 60_000;
const LONGEST_FORM = 4096;

/** Whether only this machine reaches an address. @param {string} host */
export function isLoopback(host) {
  return host === 'localhost' || host === '::1' || host === '[::1]' || (isIPv4(host) && host.startsWith('127.'));
}

/**
 * The token that every request needs; null where the server is for this machine alone and none is set.
 *
 * @param {string} host that the server listens on
 * @param {string} [token] UMWELT_TOKEN
 * @throws Stop where others reach it and there is none
 */
export function tokenFor(host, token = '') {
  if (token === '' && isLoopback(host)) return null;
  if (token === '') {
    throw new Stop(
      `On ${host} others reach Umwelt. Set UMWELT_TOKEN to what whoever asks has to know, of ${SHORTEST_TOKEN} characters at least.`,
    );
  }
  if (token.length < SHORTEST_TOKEN)
    throw new Stop(`UMWELT_TOKEN is too short: ${SHORTEST_TOKEN} characters are the least.`);
  return token;
}

/** In a time that says nothing of where they differ. @param {string} one @param {string} other */
function isSame(one, other) {
  const digest = (/** @type {string} */ text) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(one), digest(other));
}

const PAGE_STYLE = `
:root { color-scheme: light dark; --page: #edf1f0; --panel: #fafcfb; --ink: #14232b; --soft: #52646c; --line: #c9d3d2; --loss: #b4571e; }
@media (prefers-color-scheme: dark) { :root { --page: #0d171d; --panel: #13212a; --ink: #e4edee; --soft: #9db0b6; --line: #2a3c46; --loss: #e58a4e; } }
body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: var(--page); color: var(--ink); font: 15px/1.5 system-ui, sans-serif; }
form { display: grid; gap: 12px; width: 320px; padding: 28px; border: 1px solid var(--line); border-radius: 6px; background: var(--panel); }
h1 { margin: 0; font-size: 20px; } p { margin: 0; color: var(--soft); } p[role] { color: var(--loss); }
label { display: grid; gap: 4px; } input { padding: 6px 8px; border: 1px solid var(--line); border-radius: 5px; background: var(--page); color: inherit; font: inherit; }
button { padding: 7px; border: 0; border-radius: 5px; background: var(--ink); color: var(--panel); font: inherit; font-weight: 600; cursor: pointer; }
`;
const STYLE_HASH = createHash('sha256').update(PAGE_STYLE).digest('base64');
const PAGE_POLICY = `default-src 'none'; style-src 'sha256-${STYLE_HASH}'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'`;

const ESCAPES = /** @type {Record<string, string>} */ ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' });
const escaped = (/** @type {string} */ text) => text.replace(/[&<>"]/g, (one) => ESCAPES[one] ?? one);

/** @param {string} next @param {string} [problem] */
function signInPage(next, problem) {
  return `<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Sign in · Umwelt</title><style>${PAGE_STYLE}</style></head>
<body>
<form method="post" action="/sign-in">
<h1>Umwelt</h1>
<p>This server is not for this machine alone. Whoever asks needs its token.</p>
${problem ? `<p role="alert">${escaped(problem)}</p>` : ''}
<input type="hidden" name="next" value="${escaped(next)}">
<label>Token <input name="token" type="password" autocomplete="current-password" required autofocus></label>
<button>Sign in</button>
</form>
</body>
</html>
`;
}

/** A page of this server, and nothing that leads elsewhere. @param {string | null} next */
function ownPath(next) {
  return next && /^\/(?![/\\])[^\\\s]*$/.test(next) ? next : '/';
}

/**
 * Lets only those pass who know the token: as a bearer, or by the cookie that the sign-in page gives. Wrong ones are counted by
 * address.
 *
 * @param {string} token
 * @returns {(request: import('node:http').IncomingMessage, response: import('node:http').ServerResponse) => Promise<boolean>}
 *   true where the request may pass; else it has been answered
 */
export function makeGate(token) {
  /** @type {Map<string, number[]>} */
  const wrong = new Map();

  /** @param {string} address */
  function isLimited(address) {
    const since = Date.now() - TRIES_MS;
    let all = 0;
    for (const [one, times] of wrong) {
      const recent = times.filter((time) => time > since);
      if (recent.length === 0) wrong.delete(one);
      else wrong.set(one, recent);
      all += recent.length;
    }
    return all >= ALL_TRIES || (wrong.get(address)?.length ?? 0) >= TRIES;
  }

  /** @param {string} address @param {string} given */
  function isRight(address, given) {
    if (isSame(given, token)) return true;
    wrong.set(address, [...(wrong.get(address) ?? []), Date.now()]);
    return false;
  }

  const sealOf = (/** @type {string} */ issued) =>
    createHmac('sha256', token).update(`${COOKIE} ${issued}`).digest('base64url');

  /** @param {string} cookies */
  function hasSession(cookies) {
    const found = cookies
      .split(';')
      .map((pair) => pair.trim())
      .find((pair) => pair.startsWith(`${COOKIE}=`));
    const [issued = '', seal = ''] = found?.slice(COOKIE.length + 1).split('.') ?? [];
    const age = Date.now() / 1000 - Number(issued);
    return found !== undefined && age >= 0 && age < SESSION_SECONDS && isSame(seal, sealOf(issued));
  }

  return async (request, response) => {
    const { method = 'GET', url = '/', headers } = request;
    const address = request.socket.remoteAddress ?? '';
    const { pathname, searchParams } = new URL(url, 'http://here');
    const isSecure = headers['x-forwarded-proto'] === 'https';
    const cookie = (/** @type {string} */ value, /** @type {number} */ seconds) =>
      `${COOKIE}=${value}; Path=/; HttpOnly; SameSite=Strict; Max-Age=${seconds}${isSecure ? '; Secure' : ''}`;
    const page = (/** @type {number} */ status, /** @type {string} */ next, /** @type {string} */ problem = '') => {
      response.writeHead(status, {
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy': PAGE_POLICY,
        // Without a referrer its form would not say where it is from.
        'referrer-policy': 'same-origin',
        'cache-control': 'no-store',
      });
      response.end(method === 'HEAD' ? undefined : signInPage(next, problem));
      return false;
    };
    const refuse = (/** @type {number} */ status, /** @type {string} */ title, /** @type {string} */ detail) => {
      response.writeHead(status, {
        'content-type': 'application/problem+json',
        ...(status === 401 && { 'www-authenticate': 'Bearer realm="Umwelt"' }),
        ...(status === 429 && { 'retry-after': String(TRIES_MS / 1000) }),
      });
      response.end(JSON.stringify({ type: 'about:blank', status, title, detail }));
      return false;
    };
    const TOO_MANY = 'too many wrong tokens: wait for a minute';
    if (pathname === '/sign-out' && method === 'POST') {
      response.writeHead(303, { location: '/sign-in', 'set-cookie': cookie('', 0) });
      response.end();
      return false;
    }
    if (pathname === '/sign-in' && method === 'POST') {
      const origin = headers.origin;
      if (origin !== undefined && (!URL.canParse(origin) || new URL(origin).host !== headers.host))
        return refuse(403, 'Forbidden', 'requests from pages of another origin are not answered');
      const form = new URLSearchParams(await textOf(request));
      const next = ownPath(form.get('next'));
      if (isLimited(address)) return page(429, next, TOO_MANY);
      if (!isRight(address, form.get('token') ?? '')) return page(401, next, 'That is not the token.');
      const issued = String(Math.floor(Date.now() / 1000));
      response.writeHead(303, { location: next, 'set-cookie': cookie(`${issued}.${sealOf(issued)}`, SESSION_SECONDS) });
      response.end();
      return false;
    }
    if (hasSession(headers.cookie ?? '')) return true;
    if (pathname === '/sign-in') return page(200, ownPath(searchParams.get('next')));
    const given = /^Bearer +(.+)$/i.exec(headers.authorization ?? '')?.[1];
    if (given !== undefined) {
      if (isLimited(address)) return refuse(429, 'Too many tries', TOO_MANY);
      if (isRight(address, given)) return true;
      return refuse(401, 'Who asks?', 'that is not the token');
    }
    if (method === 'GET' && headers.accept?.includes('text/html')) {
      response.writeHead(303, { location: `/sign-in?next=${encodeURIComponent(url)}`, 'cache-control': 'no-store' });
      response.end();
      return false;
    }
    return refuse(401, 'Who asks?', 'send the token of this server: Authorization: Bearer …');
  };
}

/** A short body. @param {import('node:http').IncomingMessage} request */
async function textOf(request) {
  let text = '';
  for await (const chunk of request) {
    text += chunk;
    if (text.length > LONGEST_FORM) return '';
  }
  return text;
}

/** Names of this machine by which a browser on it asks. */
const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];
/** Addresses that stand for all of a machine: nobody asks by them. */
const ALL = ['0.0.0.0', '::', '[::]'];

/** @param {string} host with or without a port @returns {string | null} */
function nameOf(host) {
  return URL.canParse(`http://${host}`) ? new URL(`http://${host}`).hostname : null;
}

/**
 * The names by which the server may be asked: those of this machine, the one that it listens on, and what UMWELT_HOSTS names.
 * A page elsewhere whose name is made to lead here asks by its own name.
 *
 * @param {NodeJS.ProcessEnv} env
 * @returns {(host: string | undefined) => boolean}
 */
export function allowedHosts({ HOST = '', UMWELT_HOSTS = '' }) {
  const bound = ALL.includes(HOST) ? '' : HOST.includes(':') && !HOST.startsWith('[') ? `[${HOST}]` : HOST;
  const named = [...LOOPBACK, bound, ...UMWELT_HOSTS.split(',')]
    .map((host) => host.trim())
    .filter((host) => host !== '');
  const names = new Set(named.map(nameOf));
  return (host) => host !== undefined && names.has(nameOf(host) ?? '');
}

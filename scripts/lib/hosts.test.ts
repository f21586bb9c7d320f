import { describe, expect, it } from 'vitest';
import { allowedHosts } from './hosts.mjs';

describe('names by which the server may be asked', () => {
  it('are those of this machine, whatever the port and case', () => {
    const isAllowed = allowedHosts({ HOST: '127.0.0.1' });
    for (const host of ['localhost', 'LOCALHOST:4890', '127.0.0.1:4890', '[::1]:80'])
      expect(isAllowed(host)).toBe(true);
    for (const host of ['evil.example', 'localhost.evil.example', '127.0.0.2', '', 'a b', undefined]) {
      expect(isAllowed(host), host).toBe(false);
    }
  });
  it('and the one that it listens on, and what UMWELT_HOSTS names', () => {
    expect(allowedHosts({ HOST: '192.168.1.7' })('192.168.1.7:4890')).toBe(true);
    expect(allowedHosts({ HOST: 'fe80::1' })('[fe80::1]:4890')).toBe(true);
    expect(allowedHosts({ HOST: '0.0.0.0' })('0.0.0.0:4890')).toBe(false);
    const named = allowedHosts({ HOST: '0.0.0.0', UMWELT_HOSTS: 'desk.example, vols.example' });
    expect(named('vols.example:4890')).toBe(true);
    expect(named('example')).toBe(false);
  });
});

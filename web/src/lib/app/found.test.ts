import { describe, expect, it } from 'vitest';
import type { Command } from '$lib/state/view';
import { found, withRecent } from './found';
// Its package gives it together with components, which need a browser.
import { computeCommandScore } from '../../../../node_modules/bits-ui/dist/bits/command/compute-command-score.js';

const command = (kind: string, label: string, also?: string): Command => ({
  ...{ id: `${kind} ${label}`, kind, label, also, run: () => undefined },
});
const COMMANDS = [
  command('action', 'one session back'),
  command('view', 'go to Surface'),
  command('view', 'go to Chain'),
  command('underlying', 'CAIR', 'Cairn Bank'),
  command('underlying', 'MERI', 'Meridian 40 Fund'),
  command('expiry', '17 Apr', '2031-04-17'),
  command('date', '4 Oct 2030', '2030-10-04'),
  command('date', '14 Oct 2030', '2030-10-14'),
  command('screen', 'Rich against realized'),
];
const labels = (text: string, recent: readonly string[] = []) =>
  found(COMMANDS, text, recent, computeCommandScore).map(({ label }) => label);

describe('commands by their names', () => {
  it('before anything is typed: what was done last, then views, then actions', () => {
    expect(labels('', ['underlying CAIR'])).toEqual(['CAIR', 'go to Surface', 'go to Chain', 'one session back']);
  });
  it('are found by their beginning, by other words, and by some of their letters', () => {
    expect(labels('cairn')[0]).toBe('CAIR');
    expect(labels('rich')[0]).toBe('Rich against realized');
    expect(labels('surf')[0]).toBe('go to Surface');
    expect(labels('gts')[0]).toBe('go to Surface');
    expect(labels('2031-04')[0]).toBe('17 Apr');
    expect(labels('xyzzy')).toEqual([]);
  });
  it('dates are meant where a digit is typed, the exact one first', () => {
    expect(labels('4 Oct')[0]).toBe('4 Oct 2030');
    expect(labels('oct').some((label) => label.includes('Oct'))).toBe(false);
  });
  it('of equal ones the one that was done last comes first', () => {
    expect(labels('go to', ['view go to Chain'])[0]).toBe('go to Chain');
  });
  it('remember the last six, each once', () => {
    const ids = ['a', 'b', 'c', 'd', 'e', 'f', 'b', 'g'];
    const recent = ids.reduce<string[]>((before, id) => withRecent(before, id), []);
    expect(recent).toEqual(['g', 'b', 'f', 'e', 'd', 'c']);
  });
});

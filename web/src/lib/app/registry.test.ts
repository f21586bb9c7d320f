import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { View } from '$lib/state/view';
import { registryOf } from './registry';

const view = (name: string, title: string, key: string) => ({ name, title, key }) as View;
const first = view('chain', 'Chain', 'c');

describe('the registry of views', () => {
  it('keeps the order', () => {
    const views = [view('odds', 'Odds', 'o'), first];
    expect(registryOf(views)).toEqual(views);
  });
  it.each([
    ['name', view('chain', 'Other', 'x')],
    ['title', view('other', 'Chain', 'x')],
    ['key', view('other', 'Other', 'c')],
  ])('refuses a doubled %s', (what, other) => {
    expect(() => registryOf([first, other])).toThrow(`two views have the ${what}`);
  });
});

describe('the views', () => {
  const here = import.meta.dirname;
  const folders = readdirSync(join(here, '../views')).filter((name) =>
    existsSync(join(here, '../views', name, 'view.ts')),
  );
  it('are all in the registry, and each has a page', () => {
    const registry = readFileSync(join(here, 'views.ts'), 'utf8');
    expect(folders.length).toBeGreaterThan(6);
    for (const name of folders) {
      expect(registry, name).toContain(`'$lib/views/${name}/view'`);
      expect(existsSync(join(here, '../../routes/(app)', name, '+page.svelte')), name).toBe(true);
    }
  });
});

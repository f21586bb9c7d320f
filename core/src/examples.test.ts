import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { runInNewContext } from 'node:vm';
import { describe, expect, it } from 'vitest';
import * as core from '.';

/** Examples of the docstrings: an expression, and what it gives, rounded as it is written. */
const EXAMPLES = readdirSync(import.meta.dirname, { recursive: true, encoding: 'utf8' })
  .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'))
  .flatMap((name) => {
    const text = readFileSync(join(import.meta.dirname, name), 'utf8');
    return [...text.matchAll(/@example (.+) \/\/ (.+)$/gm)].map(
      ([, expression, result]) => [expression!, result!] as const,
    );
  });

describe('examples in docstrings', () => {
  it('are many', () => {
    expect(EXAMPLES.length).toBeGreaterThan(14);
  });
  it.each(EXAMPLES)('%s gives %s', (expression, result) => {
    const value: unknown = runInNewContext(expression, { ...core });
    if (typeof value === 'number') expect(value.toFixed(result.split('.')[1]?.length ?? 0)).toBe(result);
    else expect(value).toEqual(runInNewContext(result));
  });
});

import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { ROOT } from './packages.mjs';
import { outcomesOfPlaywright, outcomesOfVitest, summaryOf } from './reports.mjs';

const vitest = {
  testResults: [
    {
      name: join(ROOT, 'core/src/a.test.ts'),
      status: 'failed',
      message: '',
      assertionResults: [
        { fullName: 'adds', status: 'passed', duration: 5, failureMessages: [] },
        { fullName: 'divides', status: 'failed', duration: 2000, failureMessages: ['\u001b[31mexpected 1\u001b[39m'] },
        { fullName: 'waits', status: 'skipped', failureMessages: [] },
      ],
    },
    { name: join(ROOT, 'core/src/b.test.ts'), status: 'failed', message: 'no such module', assertionResults: [] },
  ],
};
const playwright = {
  suites: [
    {
      specs: [],
      suites: [
        {
          specs: [
            {
              file: 'a.spec.ts',
              title: 'opens',
              tests: [{ status: 'expected', results: [{ duration: 7, errors: [] }] }],
            },
            {
              file: 'a.spec.ts',
              title: 'closes',
              tests: [
                {
                  status: 'flaky',
                  results: [
                    { duration: 10, errors: [{ message: 'it stayed open' }] },
                    { duration: 20, errors: [] },
                  ],
                },
              ],
            },
            { file: 'a.spec.ts', title: 'later', tests: [{ status: 'skipped', results: [] }] },
          ],
        },
      ],
    },
  ],
};

describe('what runners of tests report', () => {
  it('each test counts once, and a file that does not load has failed', () => {
    expect(outcomesOfVitest(vitest)).toEqual([
      { name: 'core/src/a.test.ts adds', ms: 5, fault: null },
      { name: 'core/src/a.test.ts divides', ms: 2000, fault: 'expected 1' },
      { name: 'core/src/b.test.ts', ms: 0, fault: 'no such module' },
    ]);
  });

  it('what passed at a second try has failed', () => {
    expect(outcomesOfPlaywright(playwright)).toEqual([
      { name: 'tests/e2e/a.spec.ts opens', ms: 7, fault: null },
      { name: 'tests/e2e/a.spec.ts closes', ms: 30, fault: 'it stayed open' },
    ]);
  });

  it('the slowest are said first, and last what failed', () => {
    const lines = summaryOf([...outcomesOfPlaywright(playwright), ...outcomesOfVitest(vitest)], 2).split('\n');
    expect(lines).toEqual([
      'The slowest:',
      '    2.0 s  core/src/a.test.ts divides',
      '    0.0 s  tests/e2e/a.spec.ts closes',
      '',
      '✗ tests/e2e/a.spec.ts closes',
      '    it stayed open',
      '',
      '✗ core/src/a.test.ts divides',
      '    expected 1',
      '',
      '✗ core/src/b.test.ts',
      '    no such module',
    ]);
  });
});

/**
 * What runners of tests say in their JSON, in one form.
 *
 * @typedef {object} Outcome
 * @property {string} name what was tested, and in which file
 * @property {number} ms
 * @property {string | null} fault why it failed, or null
 */
import { relative } from 'node:path';
import { ROOT } from './packages.mjs';

// Colours of a terminal, which no report keeps apart from its words.
// eslint-disable-next-line no-control-regex
const COLOURS = /\x1b\[[0-9;]*m/g;

/** The beginning of a fault: enough to know it again. @param {unknown} text */
const brief = (text) => String(text).replace(COLOURS, '').split('\n').slice(0, 12).join('\n');

/**
 * Of Vitest's JSON. A file that does not load is a failure by itself: its tests are in no list.
 *
 * @param {any} report
 * @returns {Outcome[]}
 */
export function outcomesOfVitest({ testResults }) {
  return testResults.flatMap((/** @type {any} */ file) => {
    const name = relative(ROOT, file.name);
    const ran = file.assertionResults.filter((/** @type {any} */ { status }) => /passed|failed/.test(status));
    const outcomes = ran.map((/** @type {any} */ { fullName, status, duration, failureMessages }) => ({
      name: `${name} ${fullName}`,
      ms: duration ?? 0,
      fault: status === 'failed' ? brief(failureMessages.join('\n')) : null,
    }));
    const isToldByATest = outcomes.some((/** @type {Outcome} */ { fault }) => fault !== null);
    return file.status === 'failed' && !isToldByATest
      ? [...outcomes, { name, ms: 0, fault: brief(file.message) }]
      : outcomes;
  });
}

/**
 * Of Playwright's JSON: what passed at a second try has failed.
 *
 * @param {any} report
 * @returns {Outcome[]}
 */
export function outcomesOfPlaywright({ suites }) {
  const of = (/** @type {any} */ suite) => [
    ...(suite.suites ?? []).flatMap(of),
    ...(suite.specs ?? []).flatMap((/** @type {any} */ { file, title, tests }) =>
      tests
        .filter((/** @type {any} */ { status }) => status !== 'skipped')
        .map((/** @type {any} */ { status, results }) => ({
          name: `tests/e2e/${file} ${title}`,
          ms: results.reduce((/** @type {number} */ sum, /** @type {any} */ { duration }) => sum + duration, 0),
          fault:
            status === 'expected'
              ? null
              : brief(
                  results.flatMap((/** @type {any} */ { errors }) =>
                    errors.map((/** @type {any} */ e) => e.message),
                  )[0],
                ),
        })),
    ),
  ];
  return suites.flatMap(of);
}

/**
 * The slowest, and after them what failed, with its fault.
 *
 * @param {Outcome[]} outcomes
 * @param {number} most how many of the slow ones are said
 */
export function summaryOf(outcomes, most) {
  const slow = outcomes.toSorted((a, b) => b.ms - a.ms).slice(0, most);
  const failed = outcomes.filter(({ fault }) => fault !== null);
  return [
    'The slowest:',
    ...slow.map(({ name, ms }) => `${(ms / 1000).toFixed(1).padStart(7)} s  ${name}`),
    ...failed.flatMap(({ name, fault }) => [
      '',
      `✗ ${name}`,
      ...String(fault)
        .split('\n')
        .map((line) => `    ${line}`),
    ]),
  ].join('\n');
}

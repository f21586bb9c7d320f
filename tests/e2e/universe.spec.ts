import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { drawn, expect, numberOf, open, test } from './fixtures';

const table = (page: Page) => page.getByTestId('universe');
const rows = (page: Page) => table(page).locator('[data-symbol]');
const cells = (page: Page, column: string) => rows(page).locator(`[data-column="${column}"]`);
const valuesOf = async (page: Page, column: string) =>
  (await cells(page, column).allTextContents()).filter((text) => text.trim() !== '–').map(numberOf);
/** How many are left: rows that are not in view are not there. */
const left = async (page: Page) => Number(await table(page).getByRole('table').getAttribute('aria-rowcount')) - 1;
const chips = (page: Page) => page.getByRole('list', { name: 'Columns and conditions' });
const heads = async (page: Page) =>
  (await table(page).getByRole('columnheader').allTextContents()).map((text) => text.replace(/[▾▴]/g, '').trim());

test('columns and conditions are typed, completed, told what is wrong with them, and removed', async ({ page }) => {
  await open(page, '/universe?symbol=MRX40');
  const universe = page.getByRole('region', { name: 'Universe' });
  await expect(rows(page).first()).toBeVisible();
  const all = await left(page);
  const input = page.getByRole('combobox', { name: 'Column or condition' });
  // What is wrong is told with its characters, once it was asked for.
  await input.fill('iv30 / hv60.yx - 1');
  await input.press('Enter');
  await expect(universe.getByRole('status')).toContainText('there is no measure “hv60.yx”');
  await expect(universe.getByRole('status')).toContainText('^^^^^^^');
  await input.fill('iv30 + price');
  await input.press('Enter');
  await expect(universe.getByRole('status')).toContainText('vol and price cannot be held against each other');
  // Completed by keys.
  await input.fill('');
  await input.pressSequentially('iv90 / hv20.y');
  await expect(page.getByRole('listbox', { name: 'Words that fit' })).toContainText('historical vol over 20 sessions');
  await input.press('Tab');
  await expect(input).toHaveValue('iv90 / hv20.yz');
  await input.fill('iv30 / (hv20.yz)');
  await input.press('Enter');
  await expect(chips(page)).toContainText('shows iv30 / (hv20.yz)');
  // It is the number that the Universe has of its own.
  expect((await heads(page)).slice(0, 2)).toEqual(['underlying', 'iv30 / (hv20.yz)']);
  await expect(cells(page, 'iv30 / (hv20.yz)').first()).toHaveText(/\d/);
  expect(await valuesOf(page, 'iv30 / (hv20.yz)')).toEqual(await valuesOf(page, 'iv30 / hv20.yz'));
  // A condition leaves underlyings out, and says how many alone.
  await input.fill('rank(iv30, 252) < 30%');
  await page.getByRole('button', { name: 'filter' }).click();
  await expect(chips(page)).toContainText(/only rank\(iv30, 252\) < 30% leaves out \d+/);
  const out = Number(/leaves out (\d+)/.exec((await chips(page).textContent())!)![1]);
  await expect(universe).toContainText(`${all - out} of ${all} underlyings`);
  for (const rank of await valuesOf(page, 'rank(iv30, 252)')) expect(rank).toBeLessThanOrEqual(30);
  // Kept in the address, over a day of the past too.
  await expect(page).toHaveURL(/show=iv30.*&keep=rank/);
  await page.goto(`${page.url()}&asof=2030-10-04T20:00:00Z`);
  await expect(chips(page)).toContainText(/leaves out \d+/);
  await page.getByRole('button', { name: 'Remove rank(iv30, 252) < 30%' }).click();
  // One that has been delisted since was listed then.
  await expect(universe).toContainText(`${all + 1} underlyings`);
  await page.getByRole('button', { name: 'fx', exact: true }).click();
  await page.getByLabel('Name or symbol').fill('lunicr');
  await expect(rows(page)).toHaveCount(1);
  await page.getByLabel('Name or symbol').fill('nothing of the kind');
  await expect(table(page)).toContainText('No underlying is left.');
});

test('a least and a most under the heads leave the others out, flags and families too', async ({ page }) => {
  await open(page, '/universe?symbol=MRX40');
  await expect(rows(page).first()).toBeVisible();
  const all = await left(page);
  await page.getByRole('button', { name: 'limits' }).click();
  await page.getByLabel('Least iv30', { exact: true }).fill('30');
  await page.getByLabel('Least iv30', { exact: true }).press('Enter');
  await page.getByLabel('Most rank').fill('60');
  await page.getByLabel('Most rank').press('Tab');
  await expect(chips(page)).toContainText('rank(iv30, 252) <= 60%');
  await expect(page.getByRole('region', { name: 'Universe' })).toContainText(new RegExp(`\\d+ of ${all} underlyings`));
  await expect.poll(async () => Math.max(...(await valuesOf(page, 'rank(iv30, 252)')))).toBeLessThanOrEqual(60);
  expect(Math.min(...(await valuesOf(page, 'iv30')))).toBeGreaterThanOrEqual(30);
  await page.getByLabel('Least iv30', { exact: true }).fill('');
  await page.getByLabel('Least iv30', { exact: true }).press('Tab');
  await expect.poll(async () => Math.min(...(await valuesOf(page, 'iv30')))).toBeLessThan(30);
  await page.getByRole('button', { name: 'Remove rank(iv30, 252) <= 60%' }).click();
  await expect.poll(() => left(page)).toBe(all);
  // A flag is a condition with a name.
  await page.getByRole('button', { name: 'flags …' }).click();
  const callRich = page.getByRole('menuitemcheckbox', { name: 'call-rich 25-delta calls over puts' });
  await callRich.click();
  await expect(callRich).toBeChecked();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'flags (1)' })).toBeFocused();
  await expect(chips(page)).toContainText('only call-rich rr25 > 0.5%');
  await expect.poll(async () => Math.min(...(await valuesOf(page, 'rr25')))).toBeGreaterThan(0.5);
  await page.getByRole('button', { name: 'Remove rr25 > 0.5%' }).click();
  // By keys alone: it opens, what is typed finds, and Escape leaves.
  await page.getByRole('button', { name: 'families …' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menu')).toBeVisible();
  await page.keyboard.type('AQF');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect.poll(async () => (await rows(page).allTextContents()).every((text) => text.includes('AQF'))).toBe(true);
  await expect(page).toHaveURL(/families=AQF/);
});

test('columns are chosen, found, moved, widened and kept; a click on a head orders by it', async ({ page }) => {
  await open(page, '/universe?symbol=MRX40');
  await expect(rows(page).first()).toBeVisible();
  expect((await heads(page)).slice(0, 3)).toEqual(['underlying', 'price', 'day %']);
  await page.getByRole('button', { name: 'columns' }).click();
  const dialog = page.getByRole('dialog', { name: 'Columns' });
  await dialog.getByLabel('Find a column').fill('stands out');
  await dialog.getByRole('button', { name: /flags/ }).click();
  await dialog.getByRole('button', { name: 'Remove day %' }).click();
  // Moved by keys: taken up, two places up, let go.
  const shown = dialog.getByRole('list', { name: 'Columns shown' });
  await shown.getByRole('listitem', { name: 'flags' }).focus();
  await page.keyboard.press('Enter');
  for (let i = 0; i < 2; i++) await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await dialog.getByRole('button', { name: 'done' }).click();
  expect((await heads(page)).slice(0, 3)).toEqual(['underlying', 'price', 'iv30, held']);
  expect((await heads(page)).slice(-3)).toEqual(['flags', 'open int.', 'quality']);
  await page.getByLabel('Name or symbol').fill('LMNQ');
  await expect(cells(page, 'flags')).toContainText('event');
  await page.getByLabel('Name or symbol').fill('');
  // A head moves its column by keys.
  await table(page).getByRole('button', { name: 'iv30', exact: true }).focus();
  await page.keyboard.press('Alt+ArrowLeft');
  expect((await heads(page)).slice(0, 4)).toEqual(['underlying', 'price', 'iv30', 'iv30, held']);
  // Its width is drawn, and kept over a reload, with the rest.
  const width = async () => (await table(page).getByRole('columnheader').nth(1).boundingBox())!.width;
  const before = await width();
  const edge = (await table(page).getByRole('separator', { name: 'Width of price' }).boundingBox())!;
  await page.mouse.move(edge.x + 3, edge.y + 5);
  await page.mouse.down();
  await page.mouse.move(edge.x + 43, edge.y + 5, { steps: 4 });
  await page.mouse.up();
  expect(await width()).toBe(before + 40);
  await page.reload();
  await expect(rows(page).first()).toBeVisible();
  expect(await width()).toBe(before + 40);
  expect((await heads(page)).slice(0, 3)).toEqual(['underlying', 'price', 'iv30']);
  // Falling first, then rising, in the address.
  await table(page).getByRole('button', { name: 'iv30', exact: true }).click();
  const falling = await valuesOf(page, 'iv30');
  expect(falling).toEqual(falling.toSorted((a, b) => b - a));
  await table(page).getByRole('button', { name: /^iv30/ }).click();
  await expect(page).toHaveURL(/sort=iv30%7Crising/);
  await expect.poll(async () => (await valuesOf(page, 'iv30'))[0]).toBeLessThan(falling.at(-1)!);
  // What is in view goes into a file as it stands.
  await page.keyboard.press('e');
  const files = page.getByRole('dialog', { name: 'Export what is in view' });
  await files.getByRole('radio', { name: /Universe, in the columns/ }).check();
  const address = await files.getByLabel('For a spreadsheet that asks again').inputValue();
  const sheet = await (await page.request.get(address)).text();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    files.getByRole('button', { name: 'Download' }).click(),
  ]);
  const [head, first] = readFileSync(await download.path(), 'utf8').split('\n');
  expect(head).toContain('symbol,name,asof,price,iv30,');
  const lowest = first!.split(',')[4]!;
  expect(numberOf((100 * Number(lowest)).toFixed(1))).toBe((await valuesOf(page, 'iv30'))[0]);
  // The spreadsheet gets the same rows, without the columns of words.
  const [sheetHead, sheetFirst] = sheet.split('\r\n');
  expect(sheetHead).toMatch(/^symbol,name,kind,asof,price,iv30,/);
  expect(sheetFirst!.split(',')[5]).toBe(lowest);
});

test('the wall has a chart for each that is left, in the order of the table, and opens it', async ({ page }) => {
  await open(page, '/universe?symbol=MRX40&kinds=equity');
  await expect(rows(page).first()).toBeVisible();
  const symbols = await rows(page).locator('[role=rowheader] a').allTextContents();
  const modes = page.getByRole('group', { name: 'Table, peers or wall' });
  await modes.getByRole('button', { name: 'vols' }).click();
  const charts = page.getByRole('list', { name: 'Wall' }).getByRole('listitem');
  await expect(charts).toHaveCount(symbols.length);
  expect(await charts.locator('b').allTextContents()).toEqual(symbols);
  const paths = charts.first().locator('path');
  await expect(paths).toHaveCount(2);
  const path = () => paths.last().getAttribute('d');
  const shared = await path();
  await expect(page.getByTestId('shared-axis')).toContainText('the outermost 1 % of the values at either end');
  await page.getByRole('button', { name: 'own axes' }).click();
  await expect.poll(path).not.toBe(shared);
  await page.getByRole('button', { name: 'volume' }).click();
  await expect(paths).toHaveCount(3);
  await expect(page).toHaveURL(/kinds=equity&wall=vols&axes=own&foot=volume/);
  for (const [wall, count] of [
    ['term', 1],
    ['skew', 1],
    ['cone', 4],
  ] as const) {
    await modes.getByRole('button', { name: wall }).click();
    await expect(paths).toHaveCount(count);
  }
  await modes.getByRole('button', { name: 'price' }).click();
  await expect.poll(() => paths.count()).toBeGreaterThan(4);
  await page.getByLabel('Order of the wall').selectOption('symbol|rising');
  await expect.poll(async () => (await charts.locator('b').allTextContents())[0]).toBe('AURG');
  const [, , third] = await charts.locator('b').allTextContents();
  await charts.nth(2).getByRole('button').click();
  await expect(page).toHaveURL(new RegExp(`/surface\\?symbol=${third}`));
});

test('peers stand beside the underlying in view, with their prices and how they move together', async ({ page }) => {
  await open(page, '/universe?symbol=MERI&wall=peers');
  const peers = page.getByTestId('peers');
  const names = () => peers.locator('tbody tr a').allTextContents();
  await expect(peers.getByRole('row', { name: /MRX40/ })).toContainText('family');
  await drawn(page, 'Universe');
  const first = (await names())[0]!;
  await expect(page.getByTestId('together').getByRole('row').nth(1)).toContainText('MERI');
  await expect(page.getByRole('region', { name: 'Universe' })).toContainText(`${first} moves most like MERI`);
  await page.getByRole('button', { name: 'without family' }).click();
  await expect(peers.getByRole('row', { name: /MRX40/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'same kind' }).click();
  await expect.poll(async () => (await names()).sort()).toEqual(['ISLX', 'LEEW', 'SPAR']);
  await page.getByRole('button', { name: '60', exact: true }).click();
  await expect(page).toHaveURL(/wall=peers&compared=60&apart=true&alike=true/);
  await peers.getByRole('link', { name: 'ISLX' }).click();
  await expect(page).toHaveURL(/\/surface\?symbol=ISLX/);
});

test.describe('on data that may change', () => {
  test.use({ baseURL: process.env.E2E_DATA_URL ?? 'http://127.0.0.1:4891' });

  test('screens come along, are kept by name, chosen again, deleted and brought back', async ({ page }) => {
    await open(page, '/universe?symbol=MRX40');
    const screens = page.getByLabel('Screen', { exact: true });
    await screens.selectOption('Calls over puts');
    await expect(chips(page)).toContainText(/only call-rich rr25 > 0.5% leaves out \d+/);
    await expect(rows(page).first()).toBeVisible();
    const order = await valuesOf(page, 'rr25');
    expect(order).toEqual(order.toSorted((a, b) => b - a));
    await page.getByRole('button', { name: 'future', exact: true }).click();
    await page.getByRole('button', { name: 'keep …' }).click();
    await page.getByLabel('Name of the screen').fill('Mine');
    await page.getByLabel('Name of the screen').press('Enter');
    await expect(screens).toHaveValue('Mine');
    await screens.selectOption('');
    await expect(chips(page)).toHaveCount(0);
    await page.reload();
    await screens.selectOption('Mine');
    await expect(chips(page)).toContainText('rr25 > 0.5%');
    await expect(page.getByRole('button', { name: 'future', exact: true })).toHaveAttribute('aria-pressed', 'true');
    await page.getByRole('button', { name: 'delete', exact: true }).click();
    await expect(screens.locator('option', { hasText: 'Mine' })).toHaveCount(0);
    await page.getByRole('button', { name: 'undo' }).click();
    await expect(screens).toHaveValue('Mine');
    await page.getByRole('button', { name: 'delete', exact: true }).click();
    await expect(screens.locator('option', { hasText: 'Mine' })).toHaveCount(0);
  });
});

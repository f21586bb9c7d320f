import type { Page } from '@playwright/test';
import { drawn, expect, numberOf, open, test } from './fixtures';

const GHOST = 'ghost=2031-02-27T16:45:00.000Z';
const row = (page: Page, table: string, name: string | RegExp) =>
  page
    .getByTestId(table)
    .locator('tbody tr')
    .filter({ has: page.getByRole('rowheader', { name }) });
/** The last number of a row: profit since the ghost, or since the close. */
const lastOf = async (page: Page, table: string, name: string | RegExp) =>
  numberOf(await row(page, table, name).locator('td').last().innerText());

test('what is held: families are opened down to strikes, and sums are the same everywhere', async ({ page }) => {
  await open(page, `/chain?symbol=MRX40&${GHOST}`);
  await page.keyboard.press('g');
  await page.keyboard.press('k');
  await expect(page).toHaveURL(/\/book\?/);
  await expect(page.getByTestId('book-positions').locator('tbody tr')).toHaveCount(9);
  const families = page.getByTestId('book-families').locator('tbody tr');
  await expect(families).toHaveCount(6);
  const book = await lastOf(page, 'book-families', /^Book/);
  expect(await lastOf(page, 'book-positions', 'Book')).toBe(book);
  const change = page.getByTestId('book-change');
  await expect.poll(async () => numberOf(await change.innerText())).toBe(book);

  await row(page, 'book-families', /MRX40 3 underlyings/).click();
  await expect(families).toHaveCount(9);
  await row(page, 'book-families', /MXFM31/).click();
  await row(page, 'book-families', /17 Apr/)
    .first()
    .click();
  await expect(row(page, 'book-families', /4\s000 put/)).toBeVisible();
  await expect(page).toHaveURL(/bookopen=/);
  const parts = await Promise.all(
    [/^MERI ×100/, /^MRX40 ×10/, /^MXFM31 ×50/].map((name) => lastOf(page, 'book-families', name)),
  );
  const family = await lastOf(page, 'book-families', /MRX40 3 underlyings/);
  // Each is rounded by itself.
  expect(Math.abs(parts.reduce((sum, one) => sum + one, 0) - family)).toBeLessThanOrEqual(2);

  // In the price of the index the fund counts a tenth of it.
  await page.getByLabel('Moves told in').selectOption('in MRX40');
  await expect(page).toHaveURL(/bookin=MRX40/);
  await page.getByRole('button', { name: 'second', exact: true }).click();
  await expect(
    page.getByTestId('book-families').getByRole('columnheader', { name: 'vanna', exact: true }),
  ).toBeVisible();
});

test('what could happen, and what did it: cells open into positions, a change is taken apart in three ways', async ({
  page,
}) => {
  await open(page, `/book?symbol=MRX40&${GHOST}`);
  const worst = page.getByTestId('book-worst');
  await expect(worst).toContainText('Worst');
  await expect(page.getByTestId('book-limits')).toContainText('worst cell');
  const grid = page.getByTestId('book-grid');
  await expect(grid.locator('tbody td')).toHaveCount(63);
  await grid.getByRole('button').first().click();
  await expect(worst).toContainText('Here');
  await page.getByRole('group', { name: 'How far' }).getByRole('button', { name: 'gaps' }).click();
  await expect(grid.locator('thead th').last()).toHaveText('+40');

  // One position alone, in turn, averaged and by its Greeks: the change stays.
  await row(page, 'book-positions', 'CAIR sold strangle').click();
  await expect(page.getByTestId('book-explained-of')).toContainText('CAIR sold strangle');
  const own = await lastOf(page, 'book-positions', 'CAIR sold strangle');
  const change = page.getByTestId('book-change');
  for (const how of ['averaged', 'Greeks', 'in turn']) {
    await page.getByRole('group', { name: 'How it is explained' }).getByRole('button', { name: how }).click();
    await expect.poll(async () => numberOf(await change.innerText())).toBe(own);
    const amounts = await page.getByTestId('book-explained').locator('tr td:last-child').allInnerTexts();
    const parts = amounts.slice(0, -1).map(numberOf);
    expect(Math.abs(parts.reduce((sum, one) => sum + one, 0) - own)).toBeLessThanOrEqual(parts.length);
  }
  await page.getByRole('group', { name: 'Told' }).getByRole('button', { name: 'by day' }).click();
  await drawn(page, 'Explained');
});

test('a day is lived through again, a quarter of an hour at a time', async ({ page }) => {
  await open(page, '/book?symbol=MRX40&positions=all');
  await row(page, 'book-positions', 'MRX40 decision straddle').click();
  await page.getByRole('navigation', { name: 'Under the families' }).getByRole('button', { name: 'Replay' }).click();
  await page.getByRole('button', { name: 'all moments' }).click();
  const moment = page.getByTestId('replay-moment');
  await expect(page.getByTestId('replay-plot')).toBeVisible();
  const slider = page.getByRole('slider', { name: 'Moment of the replay' });
  await slider.focus();
  await page.keyboard.press('Home');
  await expect(moment).toContainText('09:45');
  // Everything goes along.
  await expect(page.getByTestId('asof')).toContainText('19 Dec 2030');
  await page.getByRole('button', { name: 'A step on' }).click();
  await expect(moment).toContainText('10:00');
  await page.getByRole('button', { name: 'Play the position' }).click();
  await expect(page.getByTestId('replay-facts')).toContainText('+2');
  await expect(page.getByRole('button', { name: 'Play the position' })).toHaveText(/play/);
});

test('legs go from the Chain into a book of their own, are adjusted and closed, and all of it is undone', async ({
  page,
}) => {
  const menu = () => page.getByRole('button', { name: /^Book in view/ });
  await open(page, '/book?symbol=CAIR');
  await expect(page.getByTestId('book-positions').locator('tbody tr')).toHaveCount(9);
  await menu().click();
  await page.getByLabel('Name of a new book').fill('Trials');
  await page.getByRole('button', { name: 'make', exact: true }).click();
  await expect(page).toHaveURL(/book=\d/);
  await expect(page.getByTestId('book-positions')).toContainText('No positions');
  await page.getByLabel('Cash to be paid in').fill('1000');
  await page.getByLabel('Cash to be paid in').press('Tab');
  await page.getByRole('button', { name: 'pay', exact: true }).click();
  await expect(page.getByTestId('book-cash')).toHaveText(/1\s000\.00/);
  await page.keyboard.press('Escape');

  await page.keyboard.press('g');
  await page.keyboard.press('c');
  await expect(page).toHaveURL(/\/chain\?/);
  await expect(page.getByTestId('lit')).toBeVisible();
  // A put is sold, and a call.
  await page.keyboard.press('-');
  await page.keyboard.press('.');
  await page.keyboard.press('-');
  await page.keyboard.press('j');
  const ticket = page.getByRole('dialog', { name: 'Into the book' });
  await expect(ticket.getByTestId('ticket-rows').locator('tbody tr')).toHaveCount(2);
  await ticket.getByLabel('Book', { exact: true }).selectOption('Trials');
  await expect(ticket.getByLabel('Name of the position')).toHaveValue('CAIR sold straddle');
  await ticket.getByLabel('Name of the position').fill('Sold again');
  await ticket.getByLabel('Fee of a contract').fill('1.5');
  await expect(ticket.getByRole('button', { name: 'book it' })).toBeEnabled();
  await ticket.getByRole('button', { name: 'book it' }).click();
  await expect(ticket).toBeHidden();

  await page.keyboard.press('g');
  await page.keyboard.press('k');
  await row(page, 'book-positions', 'Sold again').click();
  const tabs = page.getByRole('navigation', { name: 'Under the families' });
  await tabs.getByRole('button', { name: 'Position', exact: true }).click();
  const legs = page.getByTestId('position-legs').locator('tbody tr');
  await expect(legs).toHaveCount(2);
  await expect(page.getByTestId('position-fills').locator('tbody tr')).toHaveCount(2);
  // Sold at the bids, with a fee: worth less at once.
  expect(numberOf(await legs.first().locator('td').nth(10).innerText())).toBeLessThan(0);

  await page.getByRole('button', { name: /^Close .* put/ }).click();
  const closing = page.getByRole('dialog', { name: /^Close/ });
  await expect(closing.getByLabel(/^Quantity of/)).toHaveValue('1');
  await closing.getByRole('button', { name: 'book it' }).click();
  await expect(closing).toBeHidden();
  await expect(legs.filter({ hasText: 'closed' })).toHaveCount(1);

  await page.getByRole('button', { name: 'roll', exact: true }).click();
  const roll = page.getByRole('dialog', { name: /^Roll/ });
  await expect(roll.getByTestId('ticket-rows').locator('tbody tr')).toHaveCount(2);
  await roll.getByRole('button', { name: 'book it' }).click();
  await expect(roll).toBeHidden();
  await expect(legs).toHaveCount(3);

  // All of it back, the last first; the journal keeps it.
  const undo = page.getByRole('button', { name: 'undo', exact: true });
  await undo.click();
  await expect(legs).toHaveCount(2);
  await undo.click();
  await expect(legs.filter({ hasText: 'closed' })).toHaveCount(0);
  await undo.click();
  await tabs.getByRole('button', { name: 'Journal' }).click();
  await expect(page.getByTestId('book-journal').locator('tbody tr').first()).toContainText('undone');
  await tabs.getByRole('button', { name: 'Positions', exact: true }).click();
  await expect(page.getByTestId('book-positions')).toContainText('No positions');

  await menu().click();
  await page.getByRole('button', { name: 'delete Trials' }).click();
  await expect(page.getByTestId('books').getByRole('listitem')).toHaveCount(1);
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('book-positions').locator('tbody tr')).toHaveCount(9);
});

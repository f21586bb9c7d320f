import type { Page } from '@playwright/test';
import { expect, open, test } from './fixtures';

/** What Ctrl-C puts onto the clipboard, by lines and cells. */
const copiedBy = async (page: Page) => {
  await page.keyboard.press('Control+c');
  const text = await page.evaluate<string>('navigator.clipboard.readText()');
  return text.split('\n').map((line) => line.split('\t'));
};

test('a table by keys alone: rows are chosen, a number leads to its working, and it is copied whole', async ({
  page,
}) => {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await open(page, '/odds?symbol=MRX40');
  const area = page.getByRole('group', { name: 'Expected moves by expiry' });
  const rows = area.getByRole('row');
  await expect(area.getByRole('row', { selected: true })).toContainText('10 Apr');
  await area.focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(rows.nth(2)).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(area.getByRole('row', { selected: true })).toContainText('27 Mar');
  await expect(page).toHaveURL(/expiry=2031-03-27/);
  await expect(rows.nth(2)).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toContainText('27 Mar');
  await page.keyboard.press('Escape');
  await page.keyboard.press('End');
  await expect(rows.last()).toBeFocused();
  // The next stop of the tab key is beyond the table.
  await page.keyboard.press('Tab');
  await expect(area.locator(':focus')).toHaveCount(0);

  await area.focus();
  const copied = await copiedBy(page);
  expect(copied).toHaveLength(await rows.count());
  expect(copied[0]!.slice(0, 2)).toEqual(['expiry', 'days']);
  expect(new Set(copied.map(({ length }) => length))).toEqual(new Set([9]));
  const [days, , deviation] = await rows.nth(2).getByRole('gridcell').allInnerTexts();
  expect([copied[2]![0], copied[2]![1], copied[2]![3]]).toEqual(['27 Mar', days!.trim(), deviation!.trim()]);
});

test('what something means is shown where it is pointed at, and of a control where it is reached by keys', async ({
  page,
}) => {
  await open(page, '/surface?symbol=MRX40');
  const tip = page.locator('[data-tooltip-content]');
  const head = page.getByRole('columnheader', { name: 'days' });
  await head.hover();
  await expect(tip).toHaveText('calendar days');
  // Said to those who do not see it, and not by the browser a second time.
  await expect(head).toHaveAttribute('aria-description', 'calendar days');
  await expect(head).not.toHaveAttribute('title');
  await page.keyboard.press('Shift');
  await expect(tip).toHaveCount(0);
  await expect(head).toHaveAttribute('title', 'calendar days');
  await page.getByRole('link', { name: 'Universe' }).focus();
  await page.keyboard.press('Tab');
  await expect(tip).toHaveText('Chain (g c)');
});

test('rows in view are gone through beyond those in view, and copied with those that are not', async ({ page }) => {
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await open(page, '/universe?symbol=MRX40');
  const area = page.getByTestId('universe');
  const count = Number(await area.getByRole('table').getAttribute('aria-rowcount')) - 1;
  const inView = await area.getByRole('rowheader').count();
  expect(inView).toBeLessThan(count);
  await area.focus();
  const seen: string[] = [];
  for (let n = 0; n < count; n++) {
    await page.keyboard.press('ArrowDown');
    const link = area.locator('a:focus');
    await expect(link).not.toHaveText(seen.at(-1) ?? '');
    await expect(link).toBeInViewport();
    seen.push((await link.textContent())!);
  }
  expect(new Set(seen).size).toBe(count);
  const copied = await copiedBy(page);
  expect(copied.slice(1).map(([symbol]) => symbol)).toEqual(seen);
  expect(copied[0]!.slice(0, 3)).toEqual(['underlying', 'name', 'price']);
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(new RegExp(`/surface\\?symbol=${seen.at(-1)}`));
});

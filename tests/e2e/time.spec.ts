import { drawn, expect, numberOf, open, test } from './fixtures';

test('stepping, dragging and playing move the as-of of everything', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40');
  const asof = page.getByTestId('asof');
  await expect(asof).toHaveText('Thu 13 Mar 2031 15:45');
  const price = await page.getByTestId('price').textContent();
  const before = await drawn(page, 'Skew');
  await page.keyboard.press('[');
  await expect(asof).toHaveText('Wed 12 Mar 2031 15:45');
  await expect(page).toHaveURL(/asof=2031-03-12T16:45/);
  await expect(page.getByTestId('price')).not.toHaveText(price!);
  await expect.poll(() => drawn(page, 'Skew')).toBeGreaterThan(before);
  await page.keyboard.press(']');
  await expect(asof).toHaveText('Thu 13 Mar 2031 15:45');
  await expect(page).not.toHaveURL(/asof/);

  const handle = page.getByRole('slider', { name: 'As of' });
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(box.x - 400, box.y + 8, { steps: 8 });
  await page.mouse.up();
  await expect(asof).toContainText(/(Jul|Aug|Sep|Oct) 2030/);
  const dragged = (await asof.textContent())!;
  const dayInView = () => page.getByRole('slider', { name: 'As of' }).getAttribute('aria-valuenow').then(Number);
  const from = await dayInView();

  await page.keyboard.press('Space');
  await expect.poll(dayInView).toBeGreaterThan(from + 2);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'play', exact: true })).toBeVisible();
  await expect(asof).not.toHaveText(dragged);
});

test('the tideline can be moved by keys alone', async ({ page }) => {
  await open(page, '/chain?symbol=CAIR');
  const handle = page.getByRole('slider', { name: 'As of' });
  await handle.focus();
  await page.keyboard.press('Home');
  await expect(page.getByTestId('asof')).toHaveText('Wed 6 Mar 2030 15:45');
  await expect(handle).toHaveAttribute('aria-valuenow', '0');
  await page.keyboard.press('ArrowRight');
  await expect(handle).toHaveAttribute('aria-valuenow', '1');
  await page.keyboard.press('End');
  await expect(page.getByTestId('asof')).toHaveText('Thu 13 Mar 2031 15:45');
});

test('a day with many moments is stepped through with shift', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40');
  const asof = page.getByTestId('asof');
  await page.keyboard.press('Shift+BracketLeft');
  await expect(asof).toHaveText('Thu 13 Mar 2031 15:30');
  await page.keyboard.press('Shift+BracketLeft');
  await expect(asof).toHaveText('Thu 13 Mar 2031 15:15');
  await page.keyboard.press(']');
  await expect(asof).toHaveText('Thu 13 Mar 2031 15:45');
});

test('a split is no fall: the change of its day is in shares of the moment', async ({ page }) => {
  await page.goto('/history?symbol=GYRB&asof=2030-09-09T16:45:00Z');
  await expect(page.getByTestId('price')).toHaveText('141.83');
  // 288.76 was paid the day before, for one of the two shares of now and the other.
  await expect(page.getByTestId('change')).toContainText(/▼\s*1\.77\s%/);
});

test('the ghost keeps another moment in the skew', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40&expiry=2031-04-17');
  const skew = page.getByRole('region', { name: 'Skew', exact: true });
  await drawn(page, 'Skew');
  await page.keyboard.press('m');
  await expect(page.getByRole('slider', { name: 'Ghost' })).toBeVisible();
  await expect(skew).toContainText('ghost dashed');
  await expect(page).toHaveURL(/ghost=2031-02-/);
  await expect(skew.locator('path[style*="stroke-dasharray"]').first()).toBeAttached();
  await expect(skew).toContainText(/on \d+ Feb it was \d+\.\d/);
  await page.keyboard.press('m');
  await expect(page.getByRole('slider', { name: 'Ghost' })).toHaveCount(0);
});

test('a link reopens exactly what was seen', async ({ page }) => {
  await open(page, '/surface?symbol=LMNQ');
  await page.keyboard.press('[');
  await page.keyboard.press('b');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await page.getByRole('button', { name: 'std', exact: true }).click();
  await page.getByRole('button', { name: 'weekly' }).click();
  await page.keyboard.press('m');
  await expect(page).toHaveURL(
    /symbol=LMNQ&asof=.*&ghost=.*&basis=own&expiry=.*&strike=.*&side=.*&axis=standardized&classes=monthly,quarterly/,
  );
  const lit = (await page.getByTestId('lit').textContent())!;
  const asof = (await page.getByTestId('asof').textContent())!;
  const other = await page.context().newPage();
  await open(other, page.url());
  await expect(other.getByTestId('lit')).toHaveText(lit);
  await expect(other.getByTestId('asof')).toHaveText(asof);
  await expect(other.getByTestId('basis')).toHaveValue('own');
  await expect(other.getByRole('button', { name: 'std', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await expect(other.getByRole('button', { name: 'weekly' })).toHaveAttribute('aria-pressed', 'false');
  await expect(other.getByRole('slider', { name: 'Ghost' })).toBeVisible();
});

test('the universe and the rank are those of the moment in view', async ({ page }) => {
  await open(page, '/universe?symbol=MRX40&asof=2031-01-15T16:45:00.000Z');
  await expect(page.getByTestId('asof')).toHaveText('Wed 15 Jan 2031 15:45');
  const banner = page.getByRole('banner');
  await expect(banner).toContainText(/of 2\d\d sessions/);
  const row = page.getByTestId('universe').getByRole('row', { name: /MRX40/ });
  const rank = numberOf(await row.locator('[data-column="rank(iv30, 252)"]').textContent());
  await expect(banner).toContainText(`rank ${rank} ·`);
});

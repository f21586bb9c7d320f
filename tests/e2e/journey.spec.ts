import { drawn, expect, numberOf, open, test } from './fixtures';

test('from the Universe to one contract, as an analyst would', async ({ page }) => {
  await page.goto('/');
  await expect(page).toHaveURL(/\/universe/);
  const table = page.getByTestId('universe');
  await expect(table).toHaveAttribute('aria-rowcount', '41');
  await expect(page.getByRole('region', { name: 'Universe' })).toContainText('40 underlyings');
  // The default order is by IV/HV, falling.
  const ratios = await table.locator('[data-column="iv30 / hv20.yz"]').allTextContents();
  expect(ratios.length).toBeGreaterThan(10);
  expect(ratios.map(numberOf)).toEqual(ratios.map(numberOf).toSorted((a, b) => b - a));
  await table.getByRole('button', { name: 'underlying' }).click();
  await expect(table.locator('[data-symbol]').first()).toContainText('AQFJ31');
  await page.getByLabel('Name or symbol').fill('LMNQ');

  const row = table.getByRole('row', { name: /LMNQ/ });
  await expect(row).toContainText('backward.');
  const iv30 = (await row.locator('[data-column="iv30"]').textContent())!.trim();
  await row.click();
  await expect(page).toHaveURL(/\/surface\?symbol=LMNQ/);
  await expect(page.getByRole('banner')).toContainText(`iv30 ${iv30}`);
  await expect(page.getByTestId('model')).toContainText('American');
  await expect(page.getByRole('region', { name: 'Term structure' })).toContainText('Backwardation.');
  await drawn(page, 'Skew');

  // An expiry of the table becomes the focus of everything.
  await page
    .getByTestId('expiries')
    .getByRole('row', { name: /17 Apr/ })
    .click();
  await expect(page.getByTestId('lit')).toContainText('17 Apr');
  await page.getByRole('link', { name: 'Chain' }).click();
  await expect(page.getByTestId('chain')).toBeVisible();
  await expect(page.getByRole('button', { name: /17 Apr/ })).toHaveAttribute('aria-expanded', 'true');
  await page.locator('[data-cell="put bid"][data-strike="75"]').click();
  await expect(page.getByTestId('lit')).toHaveText('17 Apr 75 put');
  await expect(page).toHaveURL(/expiry=2031-04-17&strike=75&side=put/);

  // The numbers of chain and close-up are the same.
  const theory = await page.locator('[data-cell="put theory"][data-strike="75"]').textContent();
  await expect(page.getByTestId('bases').getByRole('row', { name: /curve/ })).toContainText(String(numberOf(theory)));
});

test('the waterline lies between the strikes around the forward', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17');
  const water = page.getByTestId('waterline');
  const forward = numberOf((await water.textContent())!.replace(/[≈a-z]/g, ''));
  const strikeOf = async (which: string) =>
    numberOf(await water.locator(`xpath=${which}-sibling::tr[1]/th`).textContent());
  expect(await strikeOf('preceding')).toBeGreaterThan(forward);
  expect(await strikeOf('following')).toBeLessThanOrEqual(forward);
  await expect(page.getByRole('button', { name: /17 Apr/ })).toContainText('35 d · 24 sessions · monthly');
});

test('a change of basis, expiry or focus asks the server for nothing', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4000&side=put');
  await page.waitForLoadState('networkidle');
  const requests: string[] = [];
  page.on('request', (request) => requests.push(request.url()));
  const theory = page.locator('[data-cell="put theory"][data-strike="4000"]');
  const seen = new Set<string>();
  for (const basis of ['own', 'level', 'index', 'realized', 'curve']) {
    await page.keyboard.press('b');
    await expect(page.getByTestId('chain')).toHaveAttribute('data-basis', basis);
    seen.add((await theory.textContent())!);
  }
  expect(seen.size).toBe(5);
  await page.getByRole('button', { name: /15 May/ }).click();
  await expect(page.getByTestId('lit')).toContainText('15 May');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('.');
  await expect(page.getByTestId('lit')).toContainText('call');
  expect(requests).toEqual([]);
});

test('the close-up compares five volatilities and says why the odds differ', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4000&side=put');
  const bases = page.getByTestId('bases');
  await expect(bases.locator('tbody tr')).toHaveCount(5);
  const vols = (await bases.locator('tbody tr td:nth-child(2)').allTextContents()).map(numberOf);
  // A put under the forward of a put-rich skew: its own vol is over the level, and realized is under both.
  expect(vols[0]).toBeGreaterThan(vols[2]!);
  expect(vols[4]).toBeLessThan(vols[2]!);
  const itm = (await bases.locator('tbody tr td:nth-child(5)').allTextContents()).map(numberOf);
  const closeUp = page.getByTestId('close-up');
  await expect(closeUp).toContainText(`From ${Math.min(...itm).toFixed(1)} %`);
  await expect(closeUp).toContainText(`to ${Math.max(...itm).toFixed(1)} %`);
  await expect(closeUp).toContainText('the slope of the skew');
  await bases.getByRole('button', { name: 'level' }).click();
  await expect(page.getByTestId('chain')).toHaveAttribute('data-basis', 'level');
  await expect(page).toHaveURL(/basis=level/);
});

test('columns: the greeks are there, and all of them', async ({ page }) => {
  await open(page, '/chain?symbol=CAIR');
  const heads = () => page.getByTestId('chain').getByRole('columnheader').allTextContents();
  await page.getByRole('group', { name: 'Columns' }).getByRole('button', { name: 'all' }).click();
  const words = (await heads()).join(' ');
  for (const word of [
    'bid',
    'mid',
    'ask',
    'IV',
    'theory',
    'delta',
    'gamma',
    'theta',
    'vega',
    'itm %',
    'volume',
    'open',
  ]) {
    expect(words).toContain(word);
  }
  expect(await heads()).toHaveLength(25);
  await expect(page).toHaveURL(/columns=all/);
});

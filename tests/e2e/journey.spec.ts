import { drawn, expect, numberOf, open, test } from './fixtures';

test('from the Universe to one contract, as an analyst would', async ({ page }) => {
  await page.goto('/');
  await expect(page).toHaveURL(/\/universe/);
  const table = page.getByTestId('universe');
  await expect(table.getByRole('table')).toHaveAttribute('aria-rowcount', '41');
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
  await expect(page.getByRole('button', { name: '17 Apr', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await page.locator('[data-cell="put bid"][data-strike="75"]').click();
  await expect(page.getByTestId('lit')).toHaveText('17 Apr 75 put');
  await expect(page).toHaveURL(/expiry=2031-04-17&strike=75&side=put/);

  // The numbers of chain and close-up are the same.
  const theory = await page.locator('[data-cell="put theory"][data-strike="75"]').textContent();
  await expect(page.getByTestId('bases').locator('[data-key="theory"] [data-basis="curve"]')).toHaveText(
    new RegExp(String(numberOf(theory))),
  );
});

test('the waterline lies between the strikes around the forward', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17');
  const water = page.getByTestId('waterline');
  const forward = numberOf((await water.textContent())!.replace(/.*Apr/, '').replace('≈', ''));
  // Lines are placed by their height, not by their order: those around the water are told by where they lie.
  const { y } = (await water.boundingBox())!;
  const rows = page.getByTestId('chain').locator('[role="row"]:has([data-move])');
  const around: { strike: number; y: number }[] = [];
  for (const row of await rows.all()) {
    const box = (await row.boundingBox())!;
    const text = (await row.getByRole('rowheader').textContent())!.replace(/[◂▸◆]/g, '');
    around.push({ strike: numberOf(text), y: box.y });
  }
  const above = around.filter((row) => row.y < y).sort((p, q) => q.y - p.y)[0]!;
  const below = around.filter((row) => row.y > y).sort((p, q) => p.y - q.y)[0]!;
  expect(above.strike).toBeGreaterThan(forward);
  expect(below.strike).toBeLessThanOrEqual(forward);
  await expect(page.getByTestId('chain').getByText('35 d · 24 sessions · monthly').last()).toBeVisible();
});

test('a change of basis, expiry or focus asks the server for nothing', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4000&side=put');
  await page.waitForLoadState('networkidle');
  const requests: string[] = [];
  page.on('request', (request) => requests.push(request.url()));
  const theory = page.locator('[data-cell="put theory"][data-strike="4000"]');
  const seen = new Set<string>();
  for (const basis of ['own', 'level', 'index', 'realized', 'manual', 'curve']) {
    await page.keyboard.press('b');
    await expect(page.getByTestId('chain')).toHaveAttribute('data-basis', basis);
    seen.add((await theory.textContent())!);
  }
  expect(seen.size).toBe(6);
  await page.getByRole('button', { name: '15 May', exact: true }).click();
  await expect(page.getByTestId('lit')).toContainText('15 May');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('.');
  await expect(page.getByTestId('lit')).toContainText('call');
  expect(requests).toEqual([]);
});

test('the close-up compares six volatilities, says why the odds differ, and shows its working', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4000&side=put');
  const bases = page.getByTestId('bases');
  const row = async (name: string) =>
    (await bases.locator(`[data-key="${name}"] td`).allTextContents()).map((text) => numberOf(text));
  const vols = await row('vol');
  expect(vols).toHaveLength(6);
  // A put under the forward of a put-rich skew: its own vol is over the level, and realized is under both.
  expect(vols[0]).toBeGreaterThan(vols[2]!);
  expect(vols[4]).toBeLessThan(vols[2]!);
  const itm = await row('itm');
  const closeUp = page.getByTestId('close-up');
  await expect(closeUp).toContainText(`From ${Math.min(...itm).toFixed(1)} %`);
  await expect(closeUp).toContainText(`to ${Math.max(...itm).toFixed(1)} %`);
  await expect(closeUp).toContainText('makes the largest difference');
  await page.keyboard.press('w');
  const working = page.getByRole('dialog', { name: /^Working: 17 Apr 4.000 put/ });
  await expect(working.getByTestId('working')).toContainText('Breeden and Litzenberger');
  await expect(working.getByTestId('others').getByRole('row')).toHaveCount(7);
  await page.keyboard.press('Escape');
  await bases.getByRole('button', { name: 'level' }).click();
  await expect(page.getByTestId('chain')).toHaveAttribute('data-basis', 'level');
  await expect(page).toHaveURL(/basis=level/);
});

test('bases of one’s own: a typed vol, a longer window, and the past itself', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4000&side=put');
  const cell = (row: string, basis: string) =>
    page.getByTestId('bases').locator(`[data-key="${row}"] [data-basis="${basis}"]`);
  await page.getByRole('button', { name: 'What the bases are' }).click();
  const dialog = page.getByRole('dialog', { name: 'What the bases are' });
  await dialog.getByLabel('Manual vol in per cent').fill('31.5');
  await dialog.getByLabel('Sessions of the estimator').selectOption('as many as are left to the expiry');
  await dialog.getByLabel('Law of realized').selectOption('past moves as long as the expiry is away, each once');
  await expect(dialog.getByTestId('sample-words')).toContainText('moves of 24 sessions');
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(/basis=manual&manual=31.5&realized=yzexpiry&past=stretches/);
  await expect(page).toHaveURL(/realized=yzexpiry/);
  await expect(cell('vol', 'manual')).toHaveText('31.5');
  // Shares of past moves are none of N(d₂): with the vol as it was they are other odds.
  const drawn = await cell('itm', 'realized').textContent();
  await page.reload();
  await expect(cell('itm', 'realized')).toHaveText(drawn!);
});

test('columns: the greeks are there, and all of them', async ({ page }) => {
  await open(page, '/chain?symbol=CAIR');
  const heads = () => page.getByTestId('chain').getByRole('columnheader').allTextContents();
  await page.getByRole('combobox', { name: 'Columns' }).selectOption('all');
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

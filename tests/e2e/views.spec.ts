import { readFileSync } from 'node:fs';
import { drawn, expect, numberOf, open, test } from './fixtures';

test('pointing at a mark of the skew lights the contract, choosing it keeps it', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40&expiry=2031-04-17');
  await drawn(page, 'Skew');
  const focused = await page.getByTestId('lit').textContent();
  const skew = page.getByRole('region', { name: 'Skew', exact: true });
  // The focused expiry is drawn last; its marks are the large ones.
  const mark = skew
    .locator('.scatterlayer .trace')
    .filter({ has: page.locator('.point') })
    .nth(-2)
    .locator('.point')
    .nth(6);
  const box = (await mark.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2 - 20, box.y - 20);
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 4 });
  await expect(page.getByTestId('lit')).not.toHaveText(focused!);
  // On its way the pointer lights what lies beside the mark, too: what is lit and what the chart says meet in the end.
  await expect(async () => {
    const lit = (await page.getByTestId('lit').textContent())!;
    await expect(skew).toContainText(lit, { timeout: 500 });
  }).toPass();
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
  // The click may come before the last of the way is lit: what it chose is in the address, and stays lit.
  await expect(page).toHaveURL(/strike=\d+&side=(put|call)/);
  const { searchParams } = new URL(page.url());
  await page.mouse.move(10, 400);
  const strike = Number(searchParams.get('strike')).toLocaleString('en').replace(',', '\u2009');
  await expect(page.getByTestId('lit')).toContainText(`${strike} ${searchParams.get('side')}`);
  await expect(page.getByTestId('lit')).not.toHaveText(focused!);
});

test('expiries are hidden from the skew, and weeklies from the term structure', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40');
  await drawn(page, 'Skew');
  await drawn(page, 'Term structure');
  const skew = page.getByRole('region', { name: 'Skew', exact: true });
  await skew.getByRole('button', { name: 'As a table' }).click();
  const ofExpiry = skew.getByRole('cell', { name: '2031-03-20' });
  expect(await ofExpiry.count()).toBeGreaterThan(10);
  await page.getByRole('button', { name: 'Hide the skew of 20 Mar' }).click();
  await expect(page).toHaveURL(/hidden=2031-03-20/);
  await expect(ofExpiry).toHaveCount(0);
  await page.getByRole('button', { name: 'Show the skew of 20 Mar' }).click();
  await expect(ofExpiry.first()).toBeVisible();
  const points = page.getByRole('region', { name: 'Term structure' }).locator('.scatterlayer .point');
  await expect(points).toHaveCount(10);
  await page.getByRole('button', { name: 'weekly' }).click();
  await expect(points).toHaveCount(7);
});

test('the chart can be read as a table, and the table agrees with the expiries', async ({ page }) => {
  await open(page, '/surface?symbol=CAIR');
  await drawn(page, 'Term structure');
  const term = page.getByRole('region', { name: 'Term structure', exact: true });
  await term.getByRole('button', { name: 'As a table' }).click();
  const cells = await term.locator('tbody tr').first().locator('td').allTextContents();
  const first = page.getByTestId('expiries').locator('tbody tr').first();
  expect(numberOf(cells[2]!)).toBe(numberOf(await first.locator('td').nth(1).textContent()));
  expect(numberOf(cells[3]!).toFixed(1)).toBe(numberOf(await first.locator('td').nth(2).textContent()).toFixed(1));
  await term.getByRole('button', { name: 'As a chart' }).click();
});

test('History: implied, estimators, windows, what stands below, and where all of it stands', async ({ page }) => {
  await open(page, '/history?symbol=CAIR');
  await drawn(page, 'History');
  const history = page.getByRole('region', { name: 'History', exact: true });
  const standing = page.getByTestId('standing');
  const now = async (name: string) =>
    numberOf(
      await standing
        .getByRole('row', { name: new RegExp(`^${name}`) })
        .locator('td')
        .nth(1)
        .textContent(),
    );
  const [iv30, hv] = [await now('30 days'), await now('hv20.yz')];
  expect(await now('gap')).toBeCloseTo(iv30 - hv, 0);
  await expect(history).toContainText(/30-day vol is \d+\.\d %, in the (lowest|highest) \d+ % of 2\d\d sessions/);
  // Another window and a second estimator; the first is the one that implied is held against.
  await page.getByRole('button', { name: '60', exact: true }).click();
  await page.getByRole('button', { name: 'gk', exact: true }).click();
  await expect(standing).toContainText('hv60.gk');
  await expect(page).toHaveURL(/hv=yz,gk&window=60/);
  await page.getByRole('button', { name: 'yz', exact: true }).click();
  await expect(page).toHaveURL(/hv=gk&window=60/);
  expect(await now('gap')).toBeCloseTo(iv30 - (await now('hv60.gk')), 0);
  // As many sessions as are left to the expiry in focus.
  await page.getByRole('button', { name: 'to expiry' }).click();
  await expect(page).toHaveURL(/window=expiry/);
  const lit = (await page.getByRole('region', { name: 'Standing' }).textContent())!;
  const left = Number(/hv(\d+)\.gk/.exec(lit)![1]);
  expect(left).toBeGreaterThan(10);
  expect(left).toBeLessThan(40);
  await page.getByRole('button', { name: '60', exact: true }).click();
  // Wings at thirty days are measures like the others.
  await page.getByRole('button', { name: 'put 25' }).click();
  await expect(
    standing
      .getByRole('row', { name: /^25-delta put/ })
      .locator('td')
      .nth(5),
  ).toHaveText(/^\d+$/);
  expect(await now('25-delta put')).toBeGreaterThan(iv30 - 1);
  await page.getByLabel('Below').selectOption('ratio');
  await expect(standing).toContainText('ratio');
  await page.getByLabel('Lookback, sessions').selectOption('60');
  await expect(page.getByRole('region', { name: 'Standing' })).toContainText('over 60 sessions');
  await page.getByLabel('Range').selectOption('since');
  await page.getByLabel('Since').fill('2030-11-01');
  await page.getByLabel('Since').press('Tab');
  await expect(page).toHaveURL(/since=2030-11-01/);
  await page.getByLabel('Range').selectOption('bars');
  await expect(page).not.toHaveURL(/since/);
  await expect(page).toHaveURL(/below=ratio&lookback=60&span=bars/);
  await expect(history.locator('.xtick').first()).toBeAttached();
  await expect(page.getByTestId('forecasts').locator('dd')).toHaveText([/\d\d\.\d/, /\d\d\.\d/, /\d\d\.\d/]);
  await expect(page.getByTestId('quality')).toContainText('coverage');
});

test('History: the cone, what implied earned afterwards, and announcements of the past', async ({ page }) => {
  await open(page, '/history?symbol=LMNQ');
  const history = page.getByRole('region', { name: 'History', exact: true });
  await page.getByRole('button', { name: 'Cone' }).click();
  await drawn(page, 'History');
  await expect(history).toContainText(/implied over \d+ sessions lies over .* of what was realized/);
  await history.getByRole('button', { name: 'As a table' }).click();
  const windows = history.locator('tbody tr td:first-child');
  await expect(windows.first()).toHaveText('5');
  // What is now is the vol that Standing has for the same window.
  const twenty = history.locator('tbody tr').filter({ has: page.locator('td:first-child', { hasText: /^20$/ }) });
  const now = numberOf(await twenty.locator('td').nth(8).textContent());
  const hv = page.getByTestId('standing').getByRole('row', { name: /^hv20.yz/ });
  expect(now).toBeCloseTo(numberOf(await hv.locator('td').nth(1).textContent()), 0);

  await page.getByRole('button', { name: 'Premium' }).click();
  const rows = page.getByTestId('premium').locator('tbody tr');
  await expect(rows).toHaveCount(5);
  const sessions = (await rows.locator('td:nth-child(2)').allTextContents()).map(numberOf);
  // The thirds are all sessions that have a rank.
  expect(sessions[1]! + sessions[2]! + sessions[3]!).toBeGreaterThan(sessions[0]! - 5);
  await expect(history).toContainText(/30 days was \d+\.\d points (over|under) what came after/);

  await page.getByRole('button', { name: 'Announcements' }).click();
  const table = page.getByTestId('announcements').locator('tbody tr');
  await expect(table).toHaveCount(3);
  await expect(table.first()).toContainText('20 Dec 2030');
  const [before, after, change] = await Promise.all(
    [2, 3, 4].map(async (i) => numberOf(await table.first().locator('td').nth(i).textContent())),
  );
  expect(change).toBeCloseTo(after! - before!, 0);
  await drawn(page, 'History');
  await table.first().click();
  await expect(page.getByTestId('asof')).toContainText('19 Dec 2030');
  // Seen from there it has not happened yet.
  await expect(table).toHaveCount(2);
  await expect(page).toHaveURL(/asof=2030-12-19.*picture=announcements/);
});

test('by keyboard alone: help, find, views, focus, theme', async ({ page }) => {
  await open(page, '/universe');
  await page.keyboard.press('?');
  const keys = page.getByRole('dialog', { name: 'Keys' });
  await expect(keys).toBeVisible();
  await expect(keys).toContainText('next vol basis');
  await page.keyboard.press('Escape');
  await expect(keys).toBeHidden();
  await page.keyboard.press('/');
  await page.keyboard.type('cairn');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('CAIR');
  await page.keyboard.press('g');
  await page.keyboard.press('c');
  await expect(page).toHaveURL(/\/chain\?symbol=CAIR/);
  await expect(page.getByTestId('lit')).toBeVisible();
  const strikeOf = async () => numberOf((await page.getByTestId('lit').innerText()).split(' ')[2]!);
  const strike = await strikeOf();
  await page.keyboard.press('ArrowUp');
  await expect.poll(strikeOf).toBeGreaterThan(strike);
  await page.keyboard.press('g');
  await page.keyboard.press('h');
  await expect(page).toHaveURL(/\/history/);
  await page.keyboard.press('t');
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'umwelt-night');
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'umwelt-night');
});

test('the guide is opened from the keys, with its pictures, and leads back', async ({ page }) => {
  await open(page, '/universe');
  await page.keyboard.press('?');
  await page.getByRole('dialog', { name: 'Keys' }).getByRole('link', { name: 'guide' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('A first day with Umwelt');
  const pictures = page.getByRole('main').getByRole('img');
  await expect(pictures).toHaveCount(12);
  for (const picture of await pictures.all()) {
    await picture.scrollIntoViewIfNeeded();
    const width = () => picture.evaluate((image) => (image as unknown as { naturalWidth: number }).naturalWidth);
    await expect.poll(width).toBe(1280);
  }
  await page.getByRole('link', { name: 'Umwelt' }).click();
  await expect(page).toHaveURL(/\/universe/);
});

test('nothing scrolls the page at 1280 × 800, and no view is wider than 1024', async ({ page }) => {
  for (const view of ['universe', 'chain', 'surface', 'history', 'structure', 'hedge']) {
    await page.setViewportSize({ width: 1280, height: 800 });
    await open(page, `/${view}?symbol=MRX40&legs=-1c4300@2031-04-17`);
    for (const [width, height] of [
      [1280, 800],
      [1024, 700],
      [2560, 1300],
    ] as const) {
      await page.setViewportSize({ width, height });
      // As text: these tests are compiled without the types of the browser.
      const size = '[document.documentElement.scrollWidth, document.documentElement.scrollHeight]';
      await expect.poll(() => page.evaluate(size), view).toEqual([width, height]);
    }
  }
});

test('e takes what is in view away as a file, with the numbers of the screen', async ({ page }) => {
  await open(page, '/surface?symbol=CAIR');
  await drawn(page, 'Skew');
  const dialog = page.getByRole('dialog', { name: 'Export what is in view' });
  const take = async (title: RegExp, format: string) => {
    await page.keyboard.press('e');
    await dialog.getByRole('radio', { name: title }).check();
    await dialog.getByRole('button', { name: format, exact: true }).click();
    const download = page.waitForEvent('download');
    await page.keyboard.press('Tab');
    await dialog.getByRole('button', { name: 'Download' }).press('Enter');
    const got = await download;
    await expect(dialog).toBeHidden();
    return { name: got.suggestedFilename(), path: await got.path() };
  };
  const expiries = await take(/^Expiries of CAIR/, 'json');
  expect(expiries.name).toBe('expiries.json');
  const rows = JSON.parse(readFileSync(expiries.path, 'utf8')) as { expiry: string; atm_vol: number; days: number }[];
  const lines = page.getByTestId('expiries').locator('tbody tr');
  await expect(lines).toHaveCount(rows.length);
  for (const [i, row] of rows.entries()) {
    expect(numberOf(await lines.nth(i).locator('td').nth(2).textContent())).toBe(
      Number((100 * row.atm_vol).toFixed(1)),
    );
  }
  const skew = await take(/^Skew of CAIR/, 'csv');
  const [head, first] = readFileSync(skew.path, 'utf8').split('\r\n');
  expect(head).toBe('expiry,settlement,strike,side,bid_vol,mid_vol,ask_vol,curve');
  expect(Number(first!.split(',')[5])).toBeGreaterThan(0.1);
  expect((await take(/^Term structure/, 'xlsx')).name).toBe('term-structure.xlsx');
  expect((await take(/^Close-up/, 'parquet')).name).toBe('close-up.parquet');

  // What is copied is as it is read.
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.keyboard.press('e');
  await dialog.getByRole('radio', { name: /^Term structure/ }).check();
  await dialog.getByRole('button', { name: 'Copy' }).click();
  await expect(dialog.getByRole('status')).toContainText('copied');
  const text = await page.evaluate<string>('navigator.clipboard.readText()');
  expect(text.split('\n')[0]).toBe('expiry\tsettlement\tdays\tatm vol\tforward vol\trealized');
  await page.keyboard.press('Escape');

  // Another view offers other things; what was left is not offered any longer.
  await page.getByRole('link', { name: 'Chain' }).click();
  await expect(page.getByTestId('chain')).toBeVisible();
  await page.keyboard.press('e');
  await expect(dialog.getByRole('radio', { name: /all expiries/ })).toBeVisible();
  await expect(dialog.getByRole('radio', { name: /^Skew/ })).toHaveCount(0);
});

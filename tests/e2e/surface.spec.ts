import type { Locator, Page } from '@playwright/test';
import { drawn, expect, numberOf, open, test } from './fixtures';

const region = (page: Page, name: string) => page.getByRole('region', { name, exact: true });
const inGroup = (page: Page, group: string, button: string) =>
  page.getByRole('group', { name: group }).getByRole('button', { name: button, exact: true });

/** Marks of the focused expiry: the last trace with points but for the lit mark. */
function marks(skew: Locator): Locator {
  const traces = skew.locator('.xy .scatterlayer .trace').filter({ has: skew.page().locator('.point') });
  return traces.nth(-2).locator('.point');
}

test('axes, sides, variance and misses: the same quotes otherwise seen, kept in the address', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40&expiry=2031-04-17');
  await drawn(page, 'Skew');
  const skew = region(page, 'Skew');
  await expect(skew).toContainText(/SVI( of three)? ±0\.\d\d points/);
  const ofAll = await marks(skew).count();
  for (const [axis, title] of [
    ['% fwd', 'strike, % of the forward'],
    ['ln', 'ln(K/F)'],
    ['std', 'ln(K/F) ÷ σ√T'],
    ['delta', 'delta of the call on the forward, %'],
  ] as const) {
    await inGroup(page, 'Axis', axis).click();
    await expect(skew.getByText(title, { exact: true })).toBeVisible();
    await expect(marks(skew)).toHaveCount(ofAll);
  }
  await page.getByLabel('Quotes of the skew').selectOption('both');
  await expect.poll(() => marks(skew).count()).toBeGreaterThan(ofAll);
  await inGroup(page, 'Upright', 'variance').click();
  await inGroup(page, 'More', 'misses').click();
  await expect(skew.locator('.xy2 .point').first()).toBeAttached();
  await expect(page).toHaveURL(/axis=delta&sides=both&scale=variance&misses=shown/);
  await page.reload();
  await expect(inGroup(page, 'Axis', 'delta')).toHaveAttribute('aria-pressed', 'true');
  await expect(skew.locator('.xy2 .point').first()).toBeAttached();
});

test('an announcement with two outcomes: a mixture, two humps, and what the past gave', async ({ page }) => {
  await open(page, '/surface?symbol=PELG&expiry=2031-05-15&panel=density');
  await expect(region(page, 'Skew')).toContainText('mixture');
  await drawn(page, 'Density');
  const density = region(page, 'Density');
  await expect(density).toContainText(
    /15 May: the market pays most for falls of more than a deviation\. \d+ % on the curve/,
  );
  await density.getByRole('button', { name: 'As a table' }).click();
  const rows = density.locator('tbody tr');
  const curve = (await rows.allTextContents()).length;
  expect(curve).toBe(161);
  const values = await rows.evaluateAll((found) => found.map((row) => row.children[1]!.textContent));
  const heights = values.map((text) => numberOf(text));
  const humps = heights.filter((here, i) => i > 0 && here > heights[i - 1]! && here >= (heights[i + 1] ?? Infinity));
  expect(humps.length).toBeGreaterThanOrEqual(2);
});

test('quotes that contradict each other are listed, with what could be earned, and lead to the contract', async ({
  page,
}) => {
  await open(page, '/surface?symbol=ISLX');
  await inGroup(page, 'Lower panel', 'arbitrage').click();
  const panel = region(page, 'Arbitrage');
  await expect(panel).toContainText('The curves have no butterfly or calendar arbitrage.');
  const row = page.getByTestId('arbitrage').locator('tbody tr').filter({ hasText: 'butterfly' }).first();
  expect(numberOf((await row.locator('td').last().textContent())!.replace('+', ''))).toBeGreaterThan(0);
  await row.click();
  await expect(page).toHaveURL(/expiry=2031-\d\d-\d\d&strike=[\d.]+&side=(put|call)/);
});

test('the past plays from its curves, on axes that hold still, and its quotes follow when it rests', async ({
  page,
}) => {
  await open(page, '/surface?symbol=MRX40&play=60&speed=8&panel=density');
  await drawn(page, 'Skew');
  const skew = region(page, 'Skew');
  const strip = region(page, 'Playback');
  await page.getByRole('button', { name: 'Start playback' }).click();
  await expect(page.getByTestId('close-up')).toContainText('while it plays, from the curve');
  for (const panel of ['Skew', 'Term structure', 'Density'])
    await expect(region(page, panel).getByTestId('moving')).toBeVisible();
  await expect(page.getByTestId('asof')).toContainText(/Dec 2030|Jan 2031/);
  const ticks = () => skew.locator('.yaxislayer-above text, .ytick text').allTextContents();
  const held = await ticks();
  await expect(page.getByTestId('asof')).toContainText(/Feb 2031/);
  expect(await ticks()).toEqual(held);
  // At the end it stops by itself, and the quotes are there again.
  await expect(page.getByTestId('asof')).toHaveText('Thu 13 Mar 2031 15:45');
  await expect(page.getByRole('button', { name: 'Start playback' })).toBeVisible();
  await expect(skew.getByTestId('moving')).toHaveCount(0);
  await expect(page.getByTestId('lit')).toBeVisible();
  await expect(strip).toContainText('4 208.15');
  // Price, 30-day vol, steepness and term slope are those of the bar at the top.
  const iv30 = (await page.getByRole('banner').textContent())!.match(/iv30 (\d+\.\d)/)![1]!;
  await expect(strip).toContainText(`iv30 ${iv30}`);
});

test('what depends on quotes plays too: contradictions, pairs in listed strikes, deliveries, a body', async ({
  page,
}) => {
  await open(page, '/surface?symbol=MRX40&play=60&speed=15&panel=arbitrage&view=pairs&pair=3+steps&loop=on');
  await drawn(page, 'Pairs');
  const panel = region(page, 'Arbitrage');
  const pairs = region(page, 'Pairs');
  await expect(panel).toContainText(/contradiction|Nothing to be earned/);
  await page.getByRole('button', { name: 'Start playback' }).click();
  // They say of which moment they are, and go on.
  const of = async () => /quotes of \w{3} (\d+ \w{3} \d{4})/.exec((await panel.textContent())!)?.[1] ?? '';
  await expect.poll(of).toMatch(/(Dec|Jan)/);
  const first = await of();
  await expect.poll(of).not.toBe(first);
  // Listed strikes of every moment: whole ones, under and over a forward that changes.
  const strike = async () =>
    numberOf(await page.getByTestId('pairs').locator('tbody tr').first().locator('td').nth(2).textContent());
  const put = await strike();
  expect(put % 25).toBe(0);
  await expect.poll(strike).not.toBe(put);
  await expect(pairs).toContainText('by the strikes that were listed then');
  const along = async () => (await page.getByTestId('along').boundingBox())!.x;
  const x = await along();
  await expect.poll(along).not.toBe(x);
  await page.getByRole('button', { name: 'Pause playback' }).click();
  await expect(panel).not.toContainText('quotes of');

  await page.goto('/surface?symbol=MRX40&play=60&speed=15&view=map&as=body&loop=on');
  const picture = region(page, 'Map').getByTestId('solid');
  await expect(picture).toHaveAttribute('data-drawn');
  await page.getByRole('button', { name: 'Start playback' }).click();
  const times = async () => Number(await picture.getAttribute('data-drawn'));
  const begun = await times();
  await expect.poll(times).toBeGreaterThan(begun + 10);

  await page.goto('/surface?symbol=AQFM31&play=60&speed=15&panel=deliveries&loop=on');
  await drawn(page, 'Deliveries');
  await page.getByRole('button', { name: 'Start playback' }).click();
  await expect(region(page, 'Deliveries').getByTestId('moving')).toBeVisible();
  const said = await region(page, 'Deliveries').textContent();
  await expect(region(page, 'Deliveries')).not.toHaveText(said!);
});

test('coming from another view that had curves of the past, the Surface has them still', async ({ page }) => {
  await open(page, '/history?symbol=LMNQ&iv=iv30,put25&play=20&speed=8');
  await expect(page.getByTestId('standing')).toContainText('25-delta put');
  await page.getByRole('navigation').first().getByRole('link', { name: 'Surface' }).click();
  await drawn(page, 'Skew');
  await page.getByRole('button', { name: 'Start playback' }).click();
  await expect(region(page, 'Skew').getByTestId('moving')).toBeVisible();
});

test('playback in moments of one day, looping, stopped by hand in the middle', async ({ page }) => {
  await open(page, '/surface?symbol=LMNQ');
  await drawn(page, 'Skew');
  await page.getByLabel('Step', { exact: true }).selectOption('moment');
  await page.getByLabel('Range, in sessions').selectOption('5');
  await page.getByLabel('Steps a second').selectOption('15');
  await page.getByRole('button', { name: 'Loop' }).click();
  await expect(page).toHaveURL(/speed=15&step=moment&play=5&loop=on/);
  await page.getByRole('button', { name: 'Start playback' }).click();
  await expect(page.getByTestId('asof')).toContainText(/Thu 13 Mar 2031 1[0-4]:/);
  await page.getByRole('button', { name: 'Pause playback' }).click();
  const asof = (await page.getByTestId('asof').textContent())!;
  // On a slow machine it may have come round to the latest moment, which an address does not say.
  if (!asof.includes('13 Mar 2031 15:45')) await expect(page).toHaveURL(/asof=2031-03-/);
  await expect(page.getByTestId('lit')).toBeVisible();
  expect(await page.getByTestId('asof').textContent()).toBe(asof);
});

test('the band of the year tells whether a lean is usual, for the skew and the term structure', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40&expiry=2031-04-17&axis=standardized');
  await drawn(page, 'Skew');
  const skew = region(page, 'Skew');
  await inGroup(page, 'More', 'band').click();
  await expect(skew).toContainText(/one deviation under is higher than in \d+ % of 25\d sessions, over than in \d+ %/);
  await inGroup(page, 'Upright', 'shape').click();
  await expect(skew).toContainText(/over the money one deviation under is higher than in \d+ %/);
  await expect(skew.locator('.fills path, .js-fill').first()).toBeAttached();
  const term = region(page, 'Term structure');
  await inGroup(page, 'Beside the vols', 'band').click();
  await expect(term.locator('.js-fill').first()).toBeAttached();
  await expect(page).toHaveURL(/scale=shape&band=shown&layers=realized,band/);
});

test('the term structure at a delta, with forward vols, fixed days and realized vols', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40');
  await drawn(page, 'Term structure');
  const term = region(page, 'Term structure');
  await term.getByRole('button', { name: 'As a table' }).click();
  const vols = async () => (await term.locator('tbody tr td:nth-child(4)').allTextContents()).map(numberOf);
  const atm = await vols();
  await page.getByLabel('Vol of the term structure').selectOption('put25');
  await expect(term.getByRole('columnheader', { name: 'vol put25' })).toBeVisible();
  const put = await vols();
  put.forEach((vol, i) => expect(vol).toBeGreaterThan(atm[i]!));
  // Realized vols are of windows as long as what is left.
  const realized = (await term.locator('tbody tr td:nth-child(6)').allTextContents()).map(numberOf);
  expect(realized.every((vol) => vol > 5 && vol < 60)).toBe(true);
  await term.getByRole('button', { name: 'As a chart' }).click();
  for (const layer of ['forward', 'fixed']) await inGroup(page, 'Beside the vols', layer).click();
  await expect(term.locator('.scatterlayer .trace')).toHaveCount(4);
  await expect(page).toHaveURL(/reading=put25&layers=steps,maturities,realized/);
});

test('the surface as colours, as a body turned by keys, and Greeks by strike', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40&expiry=2031-04-17');
  await drawn(page, 'Skew');
  await page.getByRole('navigation', { name: 'Main panel' }).getByRole('button', { name: 'Map' }).click();
  await drawn(page, 'Map');
  const map = region(page, 'Map');
  await expect(map).toContainText(/Vol from 1\d\.\d\d %.*lowest at/);
  // The map agrees with the table of expiries: its last row at the forward is the last ATM vol.
  await inGroup(page, 'Axis', 'std').click();
  await map.getByRole('button', { name: 'As a table' }).click();
  const atForward = map.locator('tbody tr').filter({ has: page.locator('td:nth-child(2)', { hasText: /^0$/ }) });
  const last = numberOf(await atForward.last().locator('td').nth(2).textContent());
  const atm = numberOf(
    await page.getByTestId('expiries').locator('tbody tr').last().locator('td').nth(2).textContent(),
  );
  expect(Math.abs(last - atm)).toBeLessThan(0.06);
  await map.getByRole('button', { name: 'As a chart' }).click();
  await inGroup(page, 'Against the ghost', 'less the ghost').click();
  await expect(map).toContainText(/Vol has (risen|fallen) most since \d+ Feb/);
  await page.getByLabel('What the map shows').selectOption('gamma');
  await inGroup(page, 'Form', 'by strike').click();
  await expect(map.locator('.scatterlayer .trace')).toHaveCount(10);
  await page.getByLabel('What the map shows').selectOption('delta');
  await expect(map.locator('.scatterlayer .trace')).toHaveCount(20);
  await inGroup(page, 'Form', '3D').click();
  const body = map.getByRole('application');
  const picture = map.getByTestId('solid');
  await expect(picture).toHaveAttribute('data-drawn');
  await body.focus();
  await expect(body).toHaveAttribute('data-around', '−60');
  await page.keyboard.press('ArrowLeft');
  await expect(body).toHaveAttribute('data-around', '−66');
  await page.keyboard.press('PageUp');
  await expect(body).not.toHaveAttribute('data-away', '2.25');
  await page.keyboard.press('Home');
  await expect(body).toHaveAttribute('data-around', '−60');
  await expect(body).toHaveAttribute('data-away', '2.25');
  const box = (await picture.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  // A point of it says its value, and a click leads to its contract.
  await page.mouse.move(x, y + 40);
  await expect(body).toContainText(/deviations · \d.*days\s*delta/);
  const said = (await body.textContent())!;
  await page.mouse.click(x, y + 40);
  const days = numberOf(/· ([\d\u2009.]+) days/.exec(said)![1]!);
  const row = page.getByTestId('expiries').locator('tr[aria-selected=true] td').nth(1);
  await expect.poll(async () => Math.abs(Math.log(numberOf(await row.textContent()) / days))).toBeLessThan(0.5);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 90, y + 10, { steps: 6 });
  await page.mouse.up();
  await expect(body).toHaveAttribute('data-around', '−96');
  await expect(page).toHaveURL(/axis=standardized&view=map&of=delta&as=body&less=ghost/);
});

test('by keyboard alone: to the map, another quantity, another form, and the past played', async ({ page }) => {
  await open(page, '/surface?symbol=CAIR');
  await drawn(page, 'Skew');
  const tabTo = async (name: string) => {
    const named = `(document.activeElement.getAttribute('aria-label') || document.activeElement.textContent).trim()`;
    for (let i = 0; i < 150; i++) {
      await page.keyboard.press('Tab');
      if ((await page.evaluate<string>(named)) === name) return;
    }
    throw new Error(`nothing called ${name} can be reached`);
  };
  await tabTo('Map');
  await page.keyboard.press('Enter');
  await drawn(page, 'Map');
  await tabTo('What the map shows');
  // A list takes letters that come far apart for words of their own: on a slow machine they are typed again.
  await expect(async () => {
    await page.keyboard.type('vega');
    await expect(page).toHaveURL(/view=map&of=vega/, { timeout: 3000 });
  }).toPass();
  await tabTo('by strike');
  await page.keyboard.press('Space');
  await expect(page).toHaveURL(/view=map&of=vega&as=lines/);
  await tabTo('Steps a second');
  await page.keyboard.press('End');
  // The button stands before it.
  await page.keyboard.press('Shift+Tab');
  await page.keyboard.press('Space');
  await expect(region(page, 'Map').getByTestId('moving')).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Start playback' })).toBeVisible();
  await expect(page).toHaveURL(/asof=2030-.*speed=30/);
});

test('measures by expiry beside those of the ghost, sorted and taken away', async ({ page }) => {
  await open(page, '/surface?symbol=LMNQ');
  await page.getByRole('navigation', { name: 'Main panel' }).getByRole('button', { name: 'Measures' }).click();
  const table = page.getByTestId('measures');
  const names = () => table.locator('tbody td:first-child .figures').allTextContents();
  await expect.poll(names).toContain('30 days');
  const atm = async (row: number) =>
    numberOf(await table.locator('tbody tr').nth(row).locator('td').nth(3).textContent());
  const listed = page.getByTestId('expiries').locator('tbody tr');
  for (const row of [0, 3])
    expect(await atm(row)).toBe(numberOf(await listed.nth(row).locator('td').nth(2).textContent()));
  await expect(region(page, 'Measures')).toContainText(/Before 27 Mar an announcement is worth ±\d+\.\d %/);
  await table.getByRole('button', { name: 'ATM' }).click();
  await expect(table.getByRole('columnheader', { name: 'ATM' })).toHaveAttribute('aria-sort', 'descending');
  expect((await names())[0]).toBe('27 Mar');
  await page.keyboard.press('m');
  await expect(region(page, 'Measures')).toContainText(/Since 13 Feb \d+ \w+ has moved most/);
  // What it was and the change make what it is.
  const row = table.getByRole('row', { name: /17 Apr/ });
  const cell = (await row.locator('td').nth(3).innerText()).split('\n');
  const [change, was] = cell[1]!.trim().split(/\s+/);
  expect(numberOf(cell[0]!)).toBeCloseTo(numberOf(was!) + numberOf(change!.replace(/[▴▾+]/g, '')), 0);
  await page.keyboard.press('e');
  await expect(page.getByRole('dialog')).toContainText('Measures of LMNQ by expiry');
});

test('pairs as far from the forward on both sides, over the expiries and through time', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40&view=pairs&expiry=2031-04-17');
  const pairs = region(page, 'Pairs');
  await drawn(page, 'Pairs');
  const row = page.getByTestId('pairs').getByRole('row', { name: /17 Apr/ });
  const cells = async () => (await row.locator('td').allTextContents()).map((text) => numberOf(text.replace('+', '')));
  const [, , put, putVol, putPrice, call, callVol, callPrice, ratio, gap] = await cells();
  expect(put! / call!).toBeCloseTo(0.95 / 1.05, 4);
  expect(ratio).toBeCloseTo(putPrice! / callPrice!, 1);
  expect(gap).toBeCloseTo(putVol! - callVol!, 0);
  await expect(pairs).toContainText(/The gap was lower in \d+ % of 25\d sessions/);
  await page.getByLabel('Measured in').selectOption('steps');
  await page.getByLabel('How far').selectOption('3');
  await expect(page).toHaveURL(/pair=3\+steps/);
  // The prices are those of the quotes: the focused put is the third strike under the forward.
  const [, , strike, , price] = await cells();
  await page.goto(`${page.url()}&strike=${strike}&side=put`);
  await expect(page.getByTestId('close-up')).toContainText(new RegExp(`mid\\s*${price!.toFixed(2)}`));
});

test('other underlyings beside: relatives at the same moneyness, an inverse pair mirrored', async ({ page }) => {
  await open(page, '/surface?symbol=ICRLUN&axis=standardized');
  await drawn(page, 'Skew');
  const skew = region(page, 'Skew');
  const term = region(page, 'Term structure');
  // The chart is drawn again as vols and values come in.
  let lines = 0;
  const isAtRest = async () => {
    const before = lines;
    lines = await skew.locator('.scatterlayer .trace').count();
    return lines === before && lines > 0;
  };
  await expect.poll(isAtRest).toBe(true);
  await page.getByLabel('Compare with').selectOption('LUNICR');
  await expect(skew).toContainText(
    /LUNICR stands 0\.\d points (over|under) at the money, its RR 25 is [+−]\d\.\d mirrored/,
  );
  await expect(skew.locator('.scatterlayer .trace')).toHaveCount(lines + 1);
  await expect(
    term.locator('.scatterlayer .trace').filter({ has: page.locator('path[style*="dash"]') }),
  ).not.toHaveCount(0);
  // Turned round, the lean is that of the pair in view.
  const said = (await skew.textContent())!;
  const [own, other] = [/RR 25 is ([+−]\d\.\d):/, /its RR 25 is ([+−]\d\.\d) mirrored/].map((what) =>
    numberOf(what.exec(said)![1]!.replace('+', '')),
  );
  expect(Math.abs(own! - other!)).toBeLessThan(0.6);
  await page.getByRole('button', { name: 'Leave LUNICR out' }).click();
  await expect(skew.locator('.scatterlayer .trace')).toHaveCount(lines);
  await page.getByLabel('Compare with').selectOption('MRX40');
  await expect(skew).toContainText(/MRX40 stands \d+\.\d points over at the money, its RR 25 is −\d/);
  await expect(page).toHaveURL(/beside=MRX40/);
});

test('futures have their deliveries: prices and vols side by side, each with its own state', async ({ page }) => {
  await open(page, '/surface?symbol=AQFM31');
  await inGroup(page, 'Lower panel', 'deliveries').click();
  const panel = region(page, 'Deliveries');
  await expect(panel).toContainText('Prices in backwardation: AQFU31 stands −');
  await drawn(page, 'Deliveries');
  await panel.getByRole('button', { name: 'As a table' }).click();
  const prices = (await panel.locator('tbody tr td:nth-child(4)').allTextContents()).map(numberOf);
  expect(prices).toHaveLength(6);
  expect(prices.toSorted((a, b) => b - a)).toEqual(prices);
  await page.goto('/surface?symbol=WNHM31&panel=deliveries');
  await expect(region(page, 'Deliveries')).toContainText('Prices in contango: WNHU31 stands +');
  // Others have none, and show their expiries.
  await page.goto('/surface?symbol=CAIR&panel=deliveries');
  await expect(page.getByTestId('expiries')).toBeVisible();
});

test.describe('on data that may change', () => {
  test.use({ baseURL: process.env.E2E_DATA_URL ?? 'http://127.0.0.1:4891' });

  test('a curve is borrowed from a relative, adjusted, kept, undone', async ({ page }) => {
    await open(page, '/surface?symbol=MERI&expiry=2031-06-19');
    await drawn(page, 'Skew');
    const skew = region(page, 'Skew');
    const listed = page.getByTestId('expiries').getByRole('row', { name: /19 Jun/ });
    const atm = async () => numberOf(await listed.locator('td').nth(2).textContent());
    const own = await atm();
    await inGroup(page, 'More', 'borrow').click();
    const editor = page.getByRole('group', { name: 'Borrow a curve' });
    await expect(editor.getByLabel('Lender')).toHaveValue('MRX40');
    await expect(editor).toContainText(
      /MRX40 19 Jun lies inside \d+ of \d+ quotes \(the own curve: \d+ of \d+ quotes\)/,
    );
    await editor.getByRole('spinbutton', { name: 'shift' }).fill('4');
    await expect(editor).toContainText(/MRX40 19 Jun lies inside \d of \d+ quotes/);
    await editor.getByRole('button', { name: 'keep' }).click();
    await expect(skew).toContainText('borrowed from MRX40 19 Jun');
    await expect.poll(atm).toBeGreaterThan(own + 3);
    await expect(page.getByTestId('close-up')).toContainText('curve borrowed from MRX40 19 Jun, +4.00 points');
    // It is marked in the chain too, and another moment borrows of its own.
    await page.keyboard.press('g');
    await page.keyboard.press('c');
    await expect(page.getByTestId('chain').getByText('⋯ MRX40').first()).toBeVisible();
    await page.keyboard.press('g');
    await page.keyboard.press('s');
    await inGroup(page, 'More', 'borrow').click();
    await editor.getByRole('spinbutton', { name: 'shift' }).fill('1');
    await editor.getByRole('button', { name: 'keep' }).click();
    await expect.poll(atm).toBeLessThan(own + 3);
    await editor.getByRole('button', { name: 'undo' }).click();
    await expect.poll(atm).toBeGreaterThan(own + 3);
    await editor.getByRole('button', { name: 'own curve' }).click();
    await expect.poll(atm).toBe(own);
    await expect(skew).toContainText(/half spreads/);
  });

  test('a whole expiry is left out by a click, of curves and measures, and brought back', async ({ page }) => {
    await open(page, '/surface?symbol=CAIR&expiry=2031-05-15');
    await drawn(page, 'Skew');
    const term = region(page, 'Term structure');
    const points = term.locator('.scatterlayer .point');
    const all = await points.count();
    await page.getByRole('button', { name: 'Set aside 15 May' }).click();
    await expect(points).toHaveCount(all - 1);
    await expect(
      page
        .getByTestId('expiries')
        .getByRole('row', { name: /15 May/ })
        .locator('.line-through'),
    ).toBeVisible();
    await inGroup(page, 'Lower panel', 'aside').click();
    await page.getByRole('button', { name: 'Use 15 May again' }).click();
    await expect(points).toHaveCount(all);
    await expect(page.getByText('15 May is set aside by hand')).toHaveCount(0);
  });

  test('a click sets a quote aside, the fit follows, and the list brings it back', async ({ page }) => {
    await open(page, '/surface?symbol=CAIR&expiry=2031-06-19');
    await drawn(page, 'Skew');
    const skew = region(page, 'Skew');
    const before = await marks(skew).count();
    const words = await skew.getByText(/half spreads/).textContent();
    // How many of its contracts a fit has used.
    const used = page
      .getByTestId('expiries')
      .getByRole('row', { name: /19 Jun/ })
      .getByRole('gridcell')
      .last();
    const all = parseInt((await used.textContent())!);
    await inGroup(page, 'More', 'set aside').click();
    await marks(skew).nth(1).click({ force: true });
    await expect(marks(skew)).toHaveCount(before - 1);
    await expect.poll(async () => parseInt((await used.textContent())!)).toBe(all - 1);
    await inGroup(page, 'Lower panel', 'aside').click();
    const list = page.getByRole('list', { name: 'Quotes set aside' });
    const entry = list.getByRole('listitem').filter({ hasText: '19 Jun' }).filter({ hasText: 'by hand' });
    await expect(entry).toHaveCount(1);
    await entry.getByRole('button', { name: 'use' }).click();
    await expect(entry).toHaveCount(0);
    await expect(skew.getByText(/half spreads/)).toHaveText(words!);
  });
});

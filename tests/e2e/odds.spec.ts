import { drawn, expect, numberOf, open, test } from './fixtures';

test('how far the market expects the price to move, and how often that held', async ({ page }) => {
  await open(page, '/odds?symbol=MRX40&expiry=2031-04-17&strike=4000&side=put');
  await drawn(page, 'Expected moves on the price');
  const moves = page.getByRole('region', { name: 'Expected moves on the price' });
  await expect(moves).toContainText(/\d+ of \d+ weeks stayed inside/);
  await expect(moves).toContainText(/This week stands at \d\.\d expected moves (up|down), 1 session left/);
  // The straddle is what it is made of: mids, weighted by distance from the forward.
  const row = page.getByTestId('expiry-moves').getByRole('row', { name: /17 Apr/ });
  await row.getByRole('button', { name: /±/ }).first().click();
  const working = page.getByRole('dialog', { name: /17 Apr: forward, vol and expected moves/ });
  await expect(working.getByTestId('working')).toContainText('straddle at 4 200');
  await page.keyboard.press('Escape');
  const cells = (await row.locator('td').allTextContents()).map((text) => text.trim());
  const straddle = numberOf(cells[1]!.replace(/.*±/, ''));
  const [deviation, ratio] = [numberOf(cells[2]!.replace('±', '')), numberOf(cells[3]!)];
  expect(Math.abs(straddle / deviation - ratio)).toBeLessThan(0.006);
  await moves.getByRole('button', { name: 'deviation' }).click();
  await expect(moves).toContainText('one fair deviation gives 68 %');
  await moves.getByRole('button', { name: 'expiry', exact: true }).click();
  await expect(moves).toContainText(/expiries stayed inside/);
  await moves.getByRole('button', { name: '15 min' }).click();
  await expect(moves).toContainText('of what the last close expected of the day');
});

test('the straddle at the forward, and those that people take by hand', async ({ page }) => {
  await open(page, '/odds?symbol=ICRLUN&straddle=forward');
  const table = page.getByTestId('expiry-moves');
  const front = table.getByRole('row').nth(1);
  const moveOf = async () => numberOf((await front.locator('td').nth(1).innerText()).replace(/.*±/s, ''));
  const fair = await moveOf();
  await front.getByRole('button', { name: /±/ }).first().click();
  const working = page.getByTestId('working');
  await expect(working).toContainText('interpolated to the forward by distance');
  await page.keyboard.press('Escape');
  // Coarse strikes make the two around it dearer; the address says which is meant.
  await table.getByRole('button', { name: 'bracket' }).click();
  await expect(page).not.toHaveURL(/straddle=/);
  expect(await moveOf()).toBeGreaterThan(fair);
  await table.getByRole('button', { name: 'nearest' }).click();
  await expect(page).toHaveURL(/straddle=nearest/);
});

test('zones are dragged, and their odds follow at once by every law', async ({ page }) => {
  await open(page, '/odds?symbol=MRX40&expiry=2031-04-17&left=zones&laws=curve,level,past');
  const panel = page.getByRole('region', { name: 'Where it may end' });
  await drawn(page, 'Where it may end');
  const strip = (name: string) => panel.getByRole('group', { name: `Odds by ${name}` }).getByRole('button');
  const odds = async (name: string) => (await strip(name).allTextContents()).map((text) => numberOf(text));
  await expect(strip('past')).toHaveCount(3);
  // One deviation of a lognormal law: N(1 + s/2) − N(−1 + s/2), near 68.3 %.
  const before = await odds('level');
  expect(Math.abs(before[1]! - 68.3)).toBeLessThan(0.3);
  const handle = panel.getByRole('slider', { name: 'Level 1' });
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x - 24, box.y + 30, { steps: 5 });
  await page.mouse.up();
  await expect(page).toHaveURL(/zones=typed&levels=/);
  const after = await odds('level');
  expect(after[0]!).toBeLessThan(before[0]!);
  expect(Math.abs(after.reduce((sum, value) => sum + value, 0) - 100)).toBeLessThan(0.3);
  // By the keyboard as well, and in words.
  await handle.focus();
  await page.keyboard.press('ArrowRight');
  await page.getByLabel('Levels of the zones').fill('4000 4200 4400');
  await page.keyboard.press('Tab');
  await expect(strip('curve')).toHaveCount(4);
  const table = page.getByTestId('zones-by-law');
  await expect(table.getByRole('row', { name: /4 000.00 … 4 200.00/ })).toBeVisible();
  const curve = await odds('curve');
  await expect(table.locator('tbody tr').first().locator('td').first()).toHaveText(
    new RegExp(String(curve[0]!.toFixed(1))),
  );
  await strip('curve').first().click();
  await expect(page.getByRole('dialog', { name: /under 4 000.00 on 17 Apr, by curve/ })).toContainText('level');
  await page.keyboard.press('Escape');
  await page.getByLabel('Levels of the zones').fill('many');
  await page.keyboard.press('Tab');
  await expect(strip('curve')).toHaveCount(4);
});

test('a contract by strike and basis, on its way, its event, open contracts and the sold straddle', async ({
  page,
}) => {
  await open(page, '/odds?symbol=LMNQ&left=strikes');
  const strikes = page.getByTestId('odds-by-strike');
  await expect(strikes.locator('tbody tr[data-focus="true"]')).toBeVisible();
  const future = page.getByTestId('contract-future');
  await expect(future.locator('tbody tr').first()).toContainText('Fri 14 Mar');
  const row = (await future.locator('tbody tr').first().locator('td').allTextContents()).map((text) => numberOf(text));
  // The further the gain or the loss, the smaller the odds.
  expect(row[0]!).toBeLessThan(row[1]!);
  expect(row[1]!).toBeLessThan(row[2]!);
  expect(row[3]!).toBeGreaterThan(row[4]!);
  await page.getByLabel('Gains and losses in per cent').fill('100 25');
  await page.keyboard.press('Tab');
  await expect(future.getByRole('columnheader')).toHaveCount(5);
  await page.getByRole('button', { name: 'Events' }).click();
  const events = page.getByTestId('event-moves');
  await expect(events.getByRole('row', { name: /Luminous Quartz results/ }).first()).toContainText(/± \d+\.\d\d %/);
  await page.getByRole('button', { name: 'Max pain' }).click();
  await expect(page.getByRole('region', { name: 'Max pain' })).toContainText('is a theory, and a disputed one');
  await page.getByRole('button', { name: 'Sold straddle' }).click();
  const rungs = page.getByTestId('straddle-hedge').locator('tbody tr');
  await expect(rungs).toHaveCount(7);
  const held = (await rungs.locator('td:nth-child(2)').allTextContents()).map((text) => numberOf(text));
  expect(held).toEqual(held.toSorted((a, b) => a - b));

  // A sold condor under every basis: what ends outside its break-evens has touched one of them.
  await open(
    page,
    '/odds?symbol=MRX40&expiry=2031-04-17&strike=4200&right=spread&left=record&legs=-1c4400@2031-04-17,1c4500@2031-04-17,-1p3950@2031-04-17,1p3850@2031-04-17',
  );
  const views = page.getByTestId('structure-by-basis').locator('tbody tr');
  await expect(views).toHaveCount(6);
  for (const view of await views.all()) {
    const numbers = (await view.locator('td').allTextContents()).map((text) => numberOf(text));
    const [itm, touch, gain] = numbers.slice(6, 9) as [number, number, number];
    // Ends in the money beyond the short strikes, loses beyond the break-evens that lie further out.
    expect(100 - gain).toBeLessThanOrEqual(itm);
    expect(touch).toBeGreaterThanOrEqual(100 - gain);
  }
  await views.first().locator('td').nth(7).getByRole('button').click();
  await expect(page.getByRole('dialog', { name: /the structure on the .* basis/ })).toContainText('absorbing barriers');
  await page.keyboard.press('Escape');
  // What became of a move, and how many did.
  // By keys: the table is one stop, arrows go through its numbers.
  await page.getByRole('group', { name: 'What became of each' }).focus();
  for (const key of ['ArrowDown', 'ArrowDown', 'ArrowRight']) await page.keyboard.press(key);
  await expect(page.getByTestId('move-steps').locator('tbody tr').nth(1).getByRole('button').nth(1)).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog', { name: /expected move of/ })).toContainText(
    'scaled by the root of the sessions',
  );
  await page.keyboard.press('Escape');
  await page.getByTestId('move-record').locator('tbody tr').first().getByRole('button').first().click();
  await expect(page.getByRole('dialog', { name: /1 to 5 sessions left/ })).toContainText(
    'ends within its mean absolute',
  );
});

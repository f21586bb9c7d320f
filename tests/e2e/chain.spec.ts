import { test as base } from '@playwright/test';
import { expect, numberOf, open, test } from './fixtures';

test('target odds: the strikes that are safe enough light up, with what they bring', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&columns=odds&range=10+strikes');
  await page.getByRole('button', { name: 'target odds' }).first().click();
  const met = page.getByTestId('met');
  await expect(met).toContainText(/call for .* put for/);
  const strikes = async () => (await page.locator('[data-met]').count()) > 0;
  expect(await strikes()).toBe(true);
  // What is lit has odds of at most 15 %, and the next strike towards the money more.
  const lit = page.locator('[data-met="put"]');
  const strike = numberOf((await lit.getByRole('rowheader').textContent())!.replace(/[◂▸◆]/g, ''));
  const odds = async (at: number) =>
    numberOf(await page.locator(`[data-cell="put itm"][data-strike="${at}"]`).textContent());
  expect(await odds(strike)).toBeLessThanOrEqual(15);
  expect(await odds(strike + 50)).toBeGreaterThan(15);
  // By the keyboard the odds are made safer: the strikes move out.
  const slider = page.getByLabel('Target odds in per cent');
  await slider.focus();
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowLeft');
  await expect(page).toHaveURL(/target=9/);
  await page.getByRole('button', { name: '▴ Target odds' }).click();
  const board = page.getByTestId('target-odds');
  await page.getByLabel('Width of the spread; 0 for a contract by itself').fill('100');
  await page.keyboard.press('Tab');
  const row = board.locator('tr[aria-selected="true"]');
  const cells = (await row.locator('td').allTextContents()).slice(0, 9);
  const [strikesOf, asked, credit, ror, year] = [cells[0]!, ...cells.slice(1, 5).map((text) => numberOf(text))];
  expect(strikesOf).toMatch(/\//);
  expect(asked).toBeLessThanOrEqual(9);
  // Return on risk is credit over width less credit; a year of 35 days.
  expect(Math.abs((ror as number) - (100 * (credit as number)) / (100 - (credit as number)))).toBeLessThan(0.1);
  expect(Math.abs((year as number) - ((ror as number) * 365) / 35.01)).toBeLessThan(1);
});

test('a structure is picked, priced, kept, noted, deleted and brought back', async ({ page, browser }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4300&side=call&range=6+strikes&columns=all');
  const call = (id: string, strike: number) => page.locator(`[data-cell="call ${id}"][data-strike="${strike}"]`);
  const numberIn = async (id: string, strike: number) => numberOf(await call(id, strike).textContent());
  await call('bid', 4300).click({ modifiers: ['Control'] });
  await call('bid', 4400).click({ modifiers: ['Shift'] });
  const strip = page.getByTestId('structure');
  await expect(strip).toContainText('+1 17 Apr 4 300 call');
  await expect(strip).toContainText('−1 17 Apr 4 400 call');
  await expect(page).toHaveURL(/legs=1c4300@2031-04-17,-1c4400@2031-04-17/);
  const worst = (await numberIn('ask', 4300)) - (await numberIn('bid', 4400));
  const best = (await numberIn('bid', 4300)) - (await numberIn('ask', 4400));
  await expect(strip).toContainText(`${worst.toFixed(2)} / ${((worst + best) / 2).toFixed(2)} / ${best.toFixed(2)}`);
  // The keys do it to the contract in focus.
  await call('bid', 4350).click();
  await page.keyboard.press('+');
  await expect(strip).toContainText('+1 17 Apr 4 350 call');
  await page.keyboard.press('-');
  await expect(strip).not.toContainText('4 350');

  await strip.getByRole('button', { name: 'keep' }).click();
  const list = page.getByTestId('kept-structures');
  const row = list.getByRole('row', { name: /4 300 call.*4 400 call/ }).last();
  await expect(row).toBeVisible();
  await row.getByRole('spinbutton').fill('-3');
  await row.getByRole('textbox', { name: /^Note/ }).fill('sold against the fund');
  await row.getByRole('textbox', { name: /^Tags/ }).fill('fund, april');
  await page.keyboard.press('Tab');
  // Somebody else sees it without being told.
  const other = await browser.newPage();
  await other.goto(new URL('/chain?symbol=MRX40&drawer=priced', page.url()).href);
  const theirs = other
    .getByTestId('kept-structures')
    .getByRole('row', { name: /4 300 call.*4 400 call/ })
    .last();
  await expect(theirs.getByRole('spinbutton')).toHaveValue('-3');
  await expect(theirs.getByRole('textbox', { name: /^Note/ })).toHaveValue('sold against the fund');
  await expect(theirs.getByRole('textbox', { name: /^Tags/ })).toHaveValue('fund, april');
  await other.close();

  const count = await list.locator('tbody tr').count();
  await row.getByRole('button', { name: /^Delete/ }).click();
  await expect(page.getByRole('button', { name: 'bring it back' })).toBeVisible();
  await page.getByRole('button', { name: 'bring it back' }).click();
  await expect(list.locator('tbody tr')).toHaveCount(count);
  await expect(
    list
      .getByRole('row', { name: /4 300 call.*4 400 call/ })
      .last()
      .getByRole('spinbutton'),
  ).toHaveValue('-3');
  await list
    .getByRole('button', { name: /^Delete/ })
    .last()
    .click();
});

// The browser itself writes a refused request to the console, so this does without the clean console.
base('two who change the same of a kept structure are told, and what they change apart holds', async ({ page }) => {
  const api = '/api/v1/structures';
  const note = `of two hands ${Date.now()}`;
  const legs = [{ expiry: '2031-04-17', strike: 4300, side: 'call', quantity: 1 }];
  const answer = await page.request.post(api, { data: { symbol: 'MRX40', legs, note } });
  const { structures } = (await answer.json()) as { structures: { id: number; note: string; version: number }[] };
  const { id, version } = structures.find((one) => one.note === note)!;
  // The page has seen this, and looks again only when it is let.
  let stale: string | null = JSON.stringify({ structures });
  await page.route('**/api/v1/structures/stream*', (route) =>
    stale !== null
      ? route.fulfill({
          contentType: 'text/event-stream',
          body: `retry: 100\nevent: structures\ndata: ${stale}\n\n`,
        })
      : route.continue(),
  );
  await page.goto('/chain?symbol=MRX40&drawer=priced');
  const row = page
    .getByTestId('kept-structures')
    .getByRole('row')
    .filter({ has: page.locator(`input[maxlength="2000"]`) })
    .last();
  const noted = row.getByRole('textbox', { name: /^Note/ });
  await expect(noted).toHaveValue(note);
  expect((await page.request.put(`${api}/${id}`, { data: { version, quantity: 5 } })).status()).toBe(200);
  const now = async () => {
    const all = (await (await page.request.get(api)).json()) as {
      structures: { id: number; quantity: number; note: string }[];
    };
    const found = all.structures.find((one) => one.id === id)!;
    return [found.quantity, found.note];
  };
  // Another field: both hold.
  await noted.fill('mine');
  await page.keyboard.press('Tab');
  await expect.poll(now).toEqual([5, 'mine']);
  // The same: who is second chooses.
  stale = await (await page.request.get(api)).text();
  await expect(row.getByRole('spinbutton')).toHaveValue('5');
  await page.request.put(`${api}/${id}`, { data: { version: version + 2, quantity: 6 } });
  await row.getByRole('spinbutton').fill('7');
  await page.keyboard.press('Tab');
  await expect(page.getByRole('alert')).toContainText('somebody else has made the quantity “6” meanwhile');
  expect(await now()).toEqual([6, 'mine']);
  stale = null;
  await page.getByRole('button', { name: 'write mine' }).click();
  await expect.poll(now).toEqual([7, 'mine']);
  await expect(page.getByRole('alert')).toHaveCount(0);
  await page.request.delete(`${api}/${id}`);
});

test('expiries stack, strikes are narrowed, quantities multiply, and a print leads to its contract', async ({
  page,
}) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4200&side=put&columns=greeks');
  await page.getByRole('button', { name: '15 May', exact: true }).click();
  await expect(page).toHaveURL(/open=2031-04-17,2031-05-15/);
  await page.getByLabel('Range of strikes').selectOption('± strikes');
  await page.getByLabel('Size of the range').fill('2');
  await page.keyboard.press('Tab');
  await expect(page.getByTestId('waterline')).toHaveCount(2);
  const strikes = page.getByTestId('chain').locator('[data-move]');
  await expect(strikes).toHaveCount(8);
  // All of them lie within one deviation.
  await expect(page.getByTestId('chain').locator('[data-move="inside"]')).toHaveCount(8);
  const theta = page.locator('[data-cell="put theta"][data-expiry="2031-04-17"][data-strike="4200"]');
  const one = numberOf(await theta.textContent());
  await page.getByRole('group', { name: 'Greeks and money per' }).getByRole('button', { name: '× n' }).click();
  await page.getByRole('spinbutton', { name: 'Contracts' }).fill('20');
  await page.keyboard.press('Tab');
  // Twenty contracts of ten units.
  await expect.poll(async () => numberOf(await theta.textContent()) / one).toBeCloseTo(200, 0);

  // Every number leads to how it comes about: what is quoted, what is worked out, and the head of an expiry.
  const working = page.getByRole('dialog');
  await page.locator('[data-cell="call theta"][data-strike="4200"]').first().dblclick();
  await expect(working).toContainText('what a calendar day takes');
  await page.keyboard.press('Escape');
  await page.locator('[data-cell="call mid"][data-strike="4200"]').first().dblclick();
  await expect(working).toContainText('open');
  await page.keyboard.press('Escape');
  await page
    .getByTestId('chain')
    .getByRole('button', { name: /^4 \d{3}\.\d\d$/ })
    .first()
    .click();
  await expect(working).toContainText('put–call parity');
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: '▴ Theta board' }).click();
  const board = page.getByTestId('theta-board');
  await expect(board.locator('tbody tr')).not.toHaveCount(0);
  const cells = await board
    .getByRole('row', { name: /17 Apr/ })
    .locator('td')
    .allTextContents();
  const [daily, vega, undo] = [cells[4]!, cells[7]!, cells[8]!].map((text) => numberOf(text));
  expect(Math.abs(undo! + daily! / vega!)).toBeLessThan(0.011);

  await page.getByRole('button', { name: '◂ Tape' }).click();
  const tape = page.getByTestId('tape');
  await expect(page.getByTestId('tape-count')).toContainText('prints');
  await page.getByRole('button', { name: 'above', exact: true }).click();
  await page.getByLabel('Smallest size').fill('40');
  await page.keyboard.press('Tab');
  await expect(page).toHaveURL(/against=above&size=40/);
  await expect
    .poll(async () => {
      const sizes = await tape.locator('[role="cell"]:nth-child(2)').allTextContents();
      return sizes.length > 0 && sizes.every((text) => numberOf(text) >= 40);
    })
    .toBe(true);
  const print = tape.getByRole('button').first();
  const words = (await print.textContent())!.replace(/[⌐△▽]/g, '').replace(/\s+/g, ' ').trim();
  const side = (await print.locator('span').getAttribute('aria-label'))!;
  await print.click();
  await page.mouse.move(5, 400);
  await expect(page.getByTestId('lit')).toHaveText(`${words} ${side}`);
  // Each print leads to how far it was from theory.
  await tape.getByRole('button', { name: '▲' }).first().click();
  await expect(page.getByRole('dialog')).toContainText('theory on the curve of that moment');
  await page.keyboard.press('Escape');
});

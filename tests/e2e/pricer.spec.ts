import type { Side } from '@umwelt/core';
import { drawn, expect, numberOf, open, test } from './fixtures';
import type { Page } from '@playwright/test';

/** A figure of the table of both sides. */
async function read(page: Page, label: string, side: Side): Promise<number> {
  const row = page.getByTestId('reading').getByRole('row', { name: label, exact: false }).first();
  return numberOf(
    await row
      .locator('td')
      .nth(side === 'call' ? 0 : 1)
      .textContent(),
  );
}

async function priced(page: Page, path: string): Promise<void> {
  await open(page, path);
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
}

test('loads the focus, and every number of the chain agrees', async ({ page }) => {
  await open(page, '/chain?symbol=KELQ&expiry=2031-04-17&strike=60&side=put&columns=greeks');
  await page.getByRole('link', { name: 'Pricer' }).click();
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  await expect(page.getByLabel('Strike', { exact: true })).toHaveValue('60');
  await expect(page.getByLabel('Model', { exact: true })).toHaveValue('american');
  const put = await page.request.post('/api/v1/price', {
    data: {
      contracts: [
        {
          model: 'american',
          side: 'put',
          spot: Number(await page.getByLabel('Spot', { exact: true }).inputValue()),
          strike: 60,
          years: Number(await page.getByLabel('Days', { exact: true }).inputValue()) / 365,
          rate: Number(await page.getByLabel('Rate', { exact: true }).inputValue()) / 100,
          yield: Number(await page.getByLabel('Yield', { exact: true }).inputValue()) / 100,
          vol: Number(await page.getByLabel('Vol', { exact: true }).inputValue()) / 100,
        },
      ],
    },
  });
  const [values] = ((await put.json()) as { results: Record<string, number>[] }).results;
  expect(await read(page, 'Price', 'put')).toBeCloseTo(values!['price']!, 3);
  expect(await read(page, 'Delta', 'put')).toBeCloseTo(values!['delta']!, 4);
  expect(await read(page, 'In-the-money odds', 'put')).toBeCloseTo(100 * values!['itm']!, 1);
  const intrinsic = await read(page, 'Intrinsic', 'call');
  expect(intrinsic + (await read(page, 'Time value', 'call'))).toBeCloseTo(await read(page, 'Price', 'call'), 3);
});

test('what moved: two vol points, the days, and both together; the address reopens it', async ({ page }) => {
  await priced(page, '/pricer?symbol=MRX40&expiry=2031-04-17&strike=4200&side=put');
  const before = await read(page, 'Price', 'put');
  const vol = page.getByLabel('Vol', { exact: true });
  const loaded = numberOf(await vol.inputValue());
  await vol.press('ArrowUp');
  await vol.press('ArrowUp');
  await page.getByLabel('Days', { exact: true }).fill('20');
  const table = page.getByTestId('moved');
  await expect(table.getByRole('row')).toHaveCount(5);
  await expect(table.getByRole('row', { name: 'vol' })).toContainText('+2.00 pts');
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  const cells = async (name: string) =>
    (await table.getByRole('row', { name }).locator('td').allTextContents()).map(numberOf);
  const [byVol, byDays, mixed] = [
    (await cells('vol'))[3]!,
    (await cells('days'))[3]!,
    (await cells('to each other'))[0]!,
  ];
  const after = await read(page, 'Price', 'put');
  expect(byVol + byDays + mixed).toBeCloseTo(after - before, 2);
  expect(byVol).toBeGreaterThan(0);
  expect(byDays).toBeLessThan(0);
  await expect(page).toHaveURL(/set=days=20;vol=/);
  await page.reload();
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  expect(await read(page, 'Price', 'put')).toBeCloseTo(after, 3);
  await page.getByRole('button', { name: 'Put back Days' }).click();
  await page.getByRole('button', { name: 'load focus' }).click();
  expect(numberOf(await vol.inputValue())).toBe(loaded);
  await expect.poll(() => read(page, 'Price', 'put')).toBeCloseTo(before, 3);
});

test('solves for the strike of a delta, uses it, and says why there is none', async ({ page }) => {
  await priced(page, '/pricer?symbol=CAIR&side=put');
  await page.getByLabel('for the').selectOption('strike');
  await page.getByLabel('whose').selectOption('delta');
  await page.getByLabel('Target').fill('-0.25');
  await expect(page.getByTestId('solved')).toContainText('strike');
  await page.getByRole('button', { name: 'use it' }).click();
  await expect.poll(() => read(page, 'Delta', 'put')).toBeCloseTo(-0.25, 4);
  await page.getByLabel('Target').fill('0.25');
  await expect(page.getByTestId('solved')).toContainText('no strike gives this delta: it runs from');
  await page.getByLabel('for the').selectOption('vol');
  await page.getByLabel('whose').selectOption('price');
  await page.getByLabel('Target').fill('0');
  await expect(page.getByTestId('solved')).toContainText('at or under its lower bound');
});

test('out of range: the field says so and the last good result stays, marked', async ({ page }) => {
  await priced(page, '/pricer?symbol=CAIR&side=put');
  const before = await read(page, 'Price', 'put');
  const vol = page.getByLabel('Vol', { exact: true });
  await vol.fill('-5');
  await expect(page.getByText('must be from 0 to 4 000 %')).toBeVisible();
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'true');
  await expect(page.getByTestId('reading')).toContainText('of the last good input');
  expect(await read(page, 'Price', 'put')).toBe(before);
  await vol.fill('30');
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  await page.getByLabel('Model', { exact: true }).selectOption('binomial');
  await page.getByLabel('Dividends', { exact: true }).fill('10 2');
  await expect(page.getByText('is not days: amount')).toBeVisible();
  await page.getByLabel('Dividends', { exact: true }).fill('10: 2');
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  expect(
    await page.getByTestId('reading').getByRole('row', { name: 'Touch' }).locator('td').first().textContent(),
  ).toBe('–');
});

test('sweeps, the working, the market, the carry and the models', async ({ page }) => {
  await priced(page, '/pricer?symbol=KELQ&expiry=2031-04-17&side=put');
  await drawn(page, 'Sweep');
  await page.getByRole('button', { name: 'theta over the lives' }).click();
  const sweep = page.getByRole('region', { name: 'Sweep', exact: true });
  await expect(sweep.locator('.scatterlayer .trace')).toHaveCount(6);
  await page.getByLabel('Curves').selectOption('vol');
  await page.getByLabel('Values of the curves').fill('20, 40');
  await expect(sweep.locator('.scatterlayer .trace')).toHaveCount(2);
  await sweep.getByRole('button', { name: 'map' }).click();
  const now = page.getByTestId('map').locator('tbody tr').nth(4).locator('td').first();
  await expect(now).not.toHaveText('');
  expect(numberOf(await now.textContent())).toBeCloseTo(await read(page, 'Theta', 'put'), 3);
  // The keyboard opens the working from anywhere but a field.
  await page.getByRole('heading', { name: 'Contract' }).click();
  await page.keyboard.press('w');
  const working = page.getByTestId('working');
  await expect(working.locator('.katex').first()).toBeVisible();
  await expect(working).toContainText('35 days and 15 minutes');
  await expect(working).toContainText('parity holds');
  await drawn(page, 'Working');
  const panel = page.getByRole('group', { name: 'Lower panel' });
  await panel.getByRole('button', { name: 'Market' }).click();
  const gap = page.getByTestId('gap');
  await expect(gap.getByRole('row', { name: 'its own vol' }).locator('td').nth(3)).toHaveText('100 %');
  await expect(gap.getByRole('row', { name: 'left, by what' })).toBeVisible();
  await panel.getByRole('button', { name: 'Carry' }).click();
  await drawn(page, 'Carry');
  await panel.getByRole('button', { name: 'Models' }).click();
  const models = page.getByTestId('models');
  await expect(models.getByRole('row')).toHaveCount(6);
  await page.getByRole('button', { name: 'contract', exact: true }).click();
  const american = models.getByRole('row', { name: 'American' }).locator('td');
  expect(numberOf(await american.first().textContent())).toBeCloseTo(await read(page, 'Price', 'put'), 2);
});

test('known dividends are taken as cash, by keyboard alone', async ({ page }) => {
  await open(page, '/chain?symbol=KELQ&expiry=2031-04-17&strike=60&side=put');
  await page.keyboard.press('g');
  await page.keyboard.press('p');
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  const dividends = page.getByLabel('Dividends', { exact: true });
  const take = page.getByRole('button', { name: '1 known dividend as cash' });
  const tabTo = async (target: typeof take) => {
    await expect(async () => {
      await page.keyboard.press('Tab');
      expect(await target.evaluate((element) => element.matches(':focus'))).toBe(true);
    }).toPass({ intervals: [0] });
  };
  const loaded = await read(page, 'Price', 'put');
  await tabTo(take);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Yield', { exact: true })).toHaveValue('0');
  await expect(dividends).toHaveValue(/^\d+(\.\d+)?: [\d.]+$/);
  await expect(page.getByTestId('reading')).toHaveAttribute('data-old', 'false');
  // What the forward implies for five weeks is the dividend, paid along the way rather than at once.
  const cash = await read(page, 'Price', 'put');
  expect(cash).not.toBe(loaded);
  expect(Math.abs(cash - loaded)).toBeLessThan(0.1 * loaded);
  await expect(page.getByTestId('moved').getByRole('row', { name: 'yield' })).toBeVisible();
});

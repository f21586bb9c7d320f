import type { Locator, Page } from '@playwright/test';
import { drawn, expect, open, test } from './fixtures';

/** The feed adds to the demo, so it runs on a server of its own. */
test.use({ baseURL: process.env.E2E_FEED_URL ?? 'http://127.0.0.1:4892' });

/** Waits until a text has changed so often. */
async function changes(text: Locator, times: number): Promise<void> {
  for (let n = 0; n < times; n++) {
    const now = await text.innerText();
    await expect(text).not.toHaveText(now, { timeout: 60_000 });
  }
}

/** Watches from now on, at every frame, that what is told about stays in the page. */
async function watch(page: Page, selectors: string[]): Promise<() => Promise<string[]>> {
  // A string: the tests know no DOM.
  await page.evaluate(`{
    const missing = new Set();
    const look = () => {
      for (const selector of ${JSON.stringify(selectors)}) if (!document.querySelector(selector)) missing.add(selector);
      if (/loading/i.test(document.body.innerText)) missing.add('a text that says it is loading');
      requestAnimationFrame(look);
    };
    look();
    window.missing = missing;
  }`);
  return () => page.evaluate<string[]>('[...window.missing]');
}

test('the feed is started, everything follows it without flicker, and it is taken back', async ({ page }) => {
  await open(page, '/data?symbol=CAIR');
  const line = page.getByRole('group', { name: 'Feed' });
  const asof = page.getByTestId('asof');
  const last = await asof.innerText();
  await expect(line).toContainText('goes on from the last moment of the demo');
  await expect(line.getByRole('button', { name: 'Reset' })).toBeDisabled();
  await line.getByRole('button', { name: '60×' }).click();
  await line.getByRole('button', { name: 'Start' }).click();
  await expect(line.getByRole('status')).toContainText('feed at 60×');
  await expect(asof).not.toHaveText(last);

  // The chain and its close-up follow, and so do the view of the surface and the Universe.
  await page.getByRole('link', { name: 'Chain' }).click();
  await expect(page.getByTestId('lit')).toBeVisible();
  const price = page.getByTestId('price');
  let missing = await watch(page, ['[data-testid=lit]', '[data-testid=waterline]', '[data-cell="call bid"]']);
  const bid = await page.getByTestId('quotes').innerText();
  await changes(price, 3);
  await expect(page.getByTestId('quotes')).not.toHaveText(bid);
  expect(await missing()).toEqual([]);

  await page.getByRole('link', { name: 'Surface' }).click();
  const first = await drawn(page, 'Skew');
  missing = await watch(page, ['[data-testid=lit]', '[data-testid=expiries] tbody tr', '[data-testid=plot] svg']);
  await changes(price, 3);
  await expect.poll(() => drawn(page, 'Skew')).toBeGreaterThan(first);
  expect(await missing()).toEqual([]);

  await page.getByRole('link', { name: 'Universe' }).click();
  await page.getByLabel('Name or symbol').fill('CAIR');
  await changes(page.getByTestId('universe').locator('[data-column="price"]'), 2);

  // What stands at an earlier moment does not move, and comes back to the feed by its end.
  await page.getByRole('link', { name: 'Chain' }).click();
  await expect(page.getByTestId('lit')).toBeVisible();
  const now = await asof.innerText();
  await page.keyboard.press('[');
  await expect(asof).toContainText(/1[23] Mar/);
  await expect(asof).not.toContainText(now.slice(0, 10));
  const stood = [await asof.innerText(), await price.innerText()];
  await changes(page.getByTestId('feed-state'), 2);
  expect([await asof.innerText(), await price.innerText()]).toEqual(stood);
  await page.getByTestId('asof-handle').focus();
  await page.keyboard.press('End');
  await changes(price, 1);

  await page.getByTestId('feed-state').click();
  await line.getByRole('button', { name: 'Stop' }).click();
  await expect(line.getByRole('status')).toContainText('feed stands at');
  await line.getByRole('button', { name: 'Reset' }).click();
  await line.getByRole('button', { name: 'Keep' }).click();
  await expect(line.getByRole('status')).toContainText('feed stands at');
  await line.getByRole('button', { name: 'Reset' }).click();
  await line.getByRole('button', { name: 'Reset' }).click();
  await expect(line.getByRole('status')).toContainText('goes on from the last moment of the demo');
  await expect(asof).toHaveText(last);
});

import { test as base } from '@playwright/test';
import { expect, open, test } from './fixtures';

// A browser that has been nowhere yet: pages that share one have what the tests before them fetched.
base(
  'the first page without charts ships under 250 kB of compressed JavaScript, and no chart library',
  async ({ page }) => {
    const client = await page.context().newCDPSession(page);
    await client.send('Network.enable');
    const kinds = new Map<string, string>();
    let bytes = 0;
    client.on('Network.responseReceived', ({ requestId, response }) => kinds.set(requestId, response.url));
    client.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
      if (kinds.get(requestId)?.endsWith('.js')) bytes += encodedDataLength;
    });
    await open(page, '/universe');
    await page.waitForLoadState('networkidle');
    expect([...kinds.values()].some((url) => url.includes('plotly'))).toBe(false);
    expect(bytes).toBeGreaterThan(100_000);
    expect(bytes).toBeLessThan(250_000);
  },
);

// The browser itself writes failed requests to the console, so these tests do without the clean console.
base('an API that fails is said, and the page goes on when it answers again', async ({ page }) => {
  const detail = 'the database does not answer';
  await page.route('**/api/v1/underlyings/*/snapshots/*', (route) =>
    route.fulfill({ status: 503, contentType: 'application/problem+json', body: JSON.stringify({ detail }) }),
  );
  await page.goto('/chain?symbol=MRX40');
  await expect(page.getByRole('alert')).toContainText(detail);
  await page.unroute('**/api/v1/underlyings/*/snapshots/*');
  await page.keyboard.press('[');
  await expect(page.getByTestId('chain')).toBeVisible();
  await expect(page.getByRole('alert')).toHaveCount(0);
});

base('an empty database says what to do next', async ({ page }) => {
  await page.route('**/api/v1/underlyings*', (route) => route.fulfill({ json: { underlyings: [] } }));
  await page.route('**/api/v1/screen', (route) =>
    route.fulfill({ json: { columns: [], filters: [], looked: 0, left: 0, rows: [] } }),
  );
  await page.goto('/universe');
  await expect(page.getByRole('main')).toContainText('npm run import');
});

base('a page that does not exist leads back', async ({ page }) => {
  await page.goto('/nowhere');
  await expect(page.getByRole('main')).toContainText('There is no such page.');
  await page.getByRole('link', { name: 'To the Universe' }).click();
  await expect(page.getByTestId('universe')).toBeVisible();
});

test('a moment before everything and an unknown symbol do not break the page', async ({ page }) => {
  await page.goto('/chain?symbol=MRX40&asof=2029-01-01T00:00:00Z');
  await expect(page.getByRole('main')).toContainText('No chain is held at this moment.');
  await open(page, '/surface?symbol=NOSUCH');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('MRX40');
});

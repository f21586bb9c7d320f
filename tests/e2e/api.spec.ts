import { expect, test } from './fixtures';

test('the API is a page of its own, whose examples run', async ({ page }) => {
  await page.goto('/universe');
  await expect(page.getByTestId('asof')).toContainText('2031');
  await page.keyboard.press('?');
  await page.getByRole('link', { name: 'API' }).click();
  await expect(page).toHaveURL(/\/api$/);
  const operations = page.getByRole('navigation', { name: 'Operations' });
  const { paths } = (await (await page.request.get('/api/v1/openapi.json')).json()) as { paths: object };
  const count = Object.values(paths).reduce<number>((sum, methods) => sum + Object.keys(methods as object).length, 0);
  // And the link back.
  await expect(operations.getByRole('link')).toHaveCount(count + 1);
  // By keys: a word finds an operation, and its example is sent as it stands.
  await page.getByRole('searchbox', { name: 'Find an operation' }).focus();
  await page.keyboard.type('surface/fit');
  await expect(operations.getByRole('link', { name: 'POST /surface/fit' })).toBeVisible();
  const article = page.getByRole('article');
  await expect(article).toHaveCount(1);
  await article.getByText('Body', { exact: false }).first().click();
  await expect(article.getByRole('row', { name: /forward number/ })).toBeVisible();
  await article.getByRole('button', { name: 'run' }).focus();
  await page.keyboard.press('Enter');
  await expect(article.getByRole('status')).toContainText(/^200 · \d+ ms · [\d,]+ bytes$/);
  await expect(article.getByLabel('Answer')).toContainText('"butterflyArbitrage": []');
  // What changes something has no button.
  await page.getByRole('searchbox').fill('deletes a structure');
  await expect(page.getByRole('article')).toContainText('DELETE');
  await expect(page.getByRole('button', { name: 'run' })).toHaveCount(0);
  await page.getByRole('searchbox').fill('nothing of the kind');
  await expect(operations).toContainText('Nothing has “nothing of the kind” in it.');
  await page.getByRole('link', { name: 'Umwelt' }).click();
  await expect(page).toHaveURL(/\/universe/);
});

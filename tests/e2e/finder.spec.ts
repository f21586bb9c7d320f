import { drawn, expect, numberOf, open, test } from './fixtures';

test('from a view to a structure: what is made, limits that are dragged, why the first is first, and into Structure', async ({
  page,
}) => {
  await open(page, '/universe?symbol=AURG');
  await page.keyboard.press('g');
  await page.keyboard.press('f');
  await expect(page).toHaveURL(/\/finder\?/);
  const counts = page.getByTestId('finder-counts');
  await expect(counts).toContainText(/\d made/);
  const rows = page.getByTestId('finder-rows').locator('[data-row]');
  await expect(rows.first()).toContainText('AURG');
  const made = async () =>
    (await counts.innerText())
      .match(/([\d\u2009]+) made · ([\d\u2009]+) within/)!
      .slice(1)
      .map(numberOf);
  const [all, within] = await made();
  expect(within).toBe(all);

  // A limit that is dragged by keys leaves some out, and says how many.
  const least = page.getByRole('slider', { name: 'Least odds, curve' });
  await least.focus();
  for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
  await expect(page).toHaveURL(/findkeep=probabilityOfProfit/);
  await expect.poll(async () => (await made())[1]).toBeLessThan(all!);
  expect((await made())[0]).toBe(all);
  const limit = page.locator('[data-limit="probabilityOfProfit"]');
  const leftOut = numberOf((await limit.innerText()).match(/−([\d\u2009]+)/)![1]!);
  expect(leftOut).toBe(all! - (await made())[1]!);

  // A condition of the underlying, and one that makes no sense.
  const typed = page.getByLabel('Condition', { exact: true });
  await typed.fill('iv30 > 500%');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('finder-rows')).toContainText('Nothing is within all limits');
  await page.getByRole('button', { name: 'Without iv30 > 500%' }).click();
  await expect(rows.first()).toBeVisible();
  await typed.fill('edge.past >');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('at character');
  await page.getByRole('button', { name: 'Without edge.past >' }).click();

  // Why it stands where it does: shares sum to the score, edges to each other.
  const row = page.getByTestId('finder-row');
  const shares = await row.getByRole('table', { name: 'Why it ranks here' }).locator('tr').allInnerTexts();
  const parts = shares.map((line) => numberOf(line.split('\t')[2] ?? line.split('\n').at(-1)!));
  const score = parts.pop()!;
  expect(parts.reduce((sum, part) => sum + part, 0)).toBeCloseTo(score, 0);
  await expect(row.getByRole('group', { name: 'Odds by curve' })).toBeVisible();
  const edges = await row.getByTestId('finder-edges').locator('tr').allInnerTexts();
  const amounts = edges.map((line) => numberOf(line.split('\t').at(-1)!));
  // Mid and fill make the edge to the curve, that and the vol the edge to it, and so on; each is rounded by itself.
  expect(Math.abs(amounts[0]! + amounts[1]! - amounts[2]!)).toBeLessThanOrEqual(1);
  expect(Math.abs(amounts[2]! + amounts[3]! - amounts[4]!)).toBeLessThanOrEqual(1);
  expect(Math.abs(amounts[4]! + amounts[5]! - amounts[6]!)).toBeLessThanOrEqual(1);
  await expect(page.getByRole('region', { name: 'Row in focus' })).toContainText('Weakest point:');

  // The second row comes into focus, and goes to Structure with its legs.
  const second = rows.nth(1);
  const strikes = await second.getByRole('rowheader').innerText();
  await second.click();
  await expect(page.getByRole('region', { name: 'Row in focus' })).toContainText(strikes.split('\n').at(-1)!.trim());
  const risk = (await row.getByRole('group', { name: 'Odds by curve' }).innerText()).replace(/\s+/g, ' ');
  await page.getByRole('button', { name: 'open in Structure' }).click();
  await expect(page).toHaveURL(/\/structure\?.*legs=.*fill=30/);
  await expect(page.getByTestId('structure-strips')).toContainText('curve');
  const strip = page.getByTestId('structure-strips').getByRole('group', { name: 'Odds by curve' });
  // Both say the same odds.
  const told = risk.match(/\d+\.\d/g)!.map(Number);
  const shown = (await strip
    .locator('[title]')
    .evaluateAll((zones) => zones.map((zone) => (zone as { title: string }).title))) as string[];
  const odds = shown.map((title) => numberOf(title.match(/([\d.]+)\u2009?\s?%/)![1]!));
  for (const value of told) expect(odds.some((one) => Math.abs(one - value) < 0.06)).toBe(true);
});

test('over all underlyings by a template, as rows, groups and a scatter that is brushed', async ({ page }) => {
  await open(page, '/finder?symbol=AURG');
  await page.getByLabel('Template', { exact: true }).selectOption('Sell rich vol, capped');
  await page.getByRole('group', { name: 'Where to look' }).getByRole('button', { name: 'all' }).click();
  const counts = page.getByTestId('finder-counts');
  const rows = page.getByTestId('finder-rows').locator('[data-row]');
  await expect(page.getByTestId('finder-sentence')).toContainText('stay within your limits');
  await expect
    .poll(async () => new Set((await rows.allInnerTexts()).map((text) => text.split(/\s+/)[1])).size)
    .toBeGreaterThan(2);
  await expect(counts.getByRole('progressbar')).toHaveCount(0);
  await expect(page.getByLabel('Template', { exact: true })).toHaveValue('Sell rich vol, capped');
  await page.getByLabel('Grouped by').selectOption('kind');
  await expect(page.getByTestId('finder-rows')).toContainText(/credit vertical · \d+ rows?/);

  // Two measures against each other: what is drawn around becomes limits.
  await page.getByRole('button', { name: 'scatter' }).click();
  await drawn(page, 'Candidates');
  const plot = page.getByTestId('finder-scatter').getByTestId('plot').locator('.nsewdrag');
  const box = (await plot.boundingBox())!;
  await page.mouse.move(box.x + 0.4 * box.width, box.y + 0.4 * box.height);
  await page.mouse.down();
  await page.mouse.move(box.x + 0.7 * box.width, box.y + 0.8 * box.height, { steps: 4 });
  await page.mouse.up();
  await expect(page).toHaveURL(/probabilityOfProfit\+%3C=/);
  await page.getByRole('button', { name: 'without these limits' }).click();
  await expect(page).not.toHaveURL(/probabilityOfProfit/);
});

test('what was found is kept, booked at the chosen fill, and told by what became of it', async ({ page }) => {
  await open(page, '/finder?symbol=AURG&asof=2030-11-15T20:45:00.000Z&findkinds=vertical-credit');
  const rows = page.getByTestId('finder-rows').locator('[data-row]');
  await expect(rows.first()).toBeVisible();
  await expect(page.getByTestId('finder-rows')).toContainText('became');
  await expect(page.getByRole('region', { name: 'Row in focus' })).toContainText('What became of it: it ended at');
  await page.getByRole('region', { name: 'Row in focus' }).getByRole('button', { name: 'keep', exact: true }).click();
  await expect(page.getByText(/is kept\.$/)).toBeVisible();
  await page.getByRole('button', { name: 'into the book' }).click();
  const ticket = page.getByRole('dialog');
  await expect(ticket).toContainText(/taken in [\d.]+ a unit/);
  await ticket.getByRole('button', { name: 'not now' }).click();
  await expect(ticket).toHaveCount(0);

  // A template of one's own is kept by name, and goes again.
  await page.getByRole('button', { name: 'keep …' }).click();
  await page.getByLabel('Name of the template').fill('Credit in autumn');
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Template', { exact: true })).toHaveValue('Credit in autumn');
  await page.getByRole('button', { name: 'delete', exact: true }).click();
  await expect(page.getByLabel('Template', { exact: true })).not.toHaveValue('Credit in autumn');
});

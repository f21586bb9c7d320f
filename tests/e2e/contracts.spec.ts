import { expect, numberOf, open, test } from './fixtures';

/** A day on which the index has two series: one settled in the morning, one in the afternoon. */
const MORNING = '2031-12-18am';
const AFTERNOON = '2031-12-18';

test('two series of one day are two expiries: by keys, in the address, in every view, and as legs that are kept', async ({
  page,
}) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-09-18&strike=4200&side=call');
  const unfolded = page.getByRole('group', { name: 'Expiries unfolded' });
  await page.keyboard.press('ArrowRight');
  await expect(page).toHaveURL(new RegExp(`expiry=${MORNING}(&|$)`));
  await expect(page.getByTestId('lit')).toContainText('18 Dec am 4 200 call');
  await expect(unfolded.getByRole('button', { name: '18 Dec am' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('+');
  await page.keyboard.press('ArrowRight');
  await expect(page).toHaveURL(new RegExp(`expiry=${AFTERNOON}(&|$)`));
  await expect(page.getByTestId('lit')).toContainText('18 Dec 4 200 call');
  await page.keyboard.press('-');
  await expect(page).toHaveURL(new RegExp(`legs=1c4200@${MORNING},-1c4200@${AFTERNOON}`));
  const strip = page.getByTestId('structure');
  await expect(strip).toContainText('+1 18 Dec am 4 200 call');
  await expect(strip).toContainText('−1 18 Dec 4 200 call');
  // What lives a session longer is worth about the same: each has a curve of its own.
  const value = /value\s*([−\d.]+)/.exec((await strip.textContent())!)![1]!;
  expect(Math.abs(numberOf(value))).toBeLessThan(2);

  // A link opens the same, in each view that shows an expiry.
  const address = new URL(page.url());
  for (const view of ['/chain', '/surface', '/odds']) {
    await open(page, `${view}${address.search.replace(`expiry=${AFTERNOON}`, `expiry=${MORNING}`)}`);
    await expect(page.getByTestId('lit').first(), view).toContainText('18 Dec am 4 200 call');
    await page.keyboard.press('ArrowRight');
    await expect(page.getByTestId('lit').first(), view).toContainText('18 Dec 4 200 call');
  }

  await open(page, `/chain${address.search}`);
  await page.getByTestId('structure').getByRole('button', { name: 'keep' }).click();
  const row = page
    .getByTestId('kept-structures')
    .getByRole('row', { name: /18 Dec am 4 200 call, −1 18 Dec 4 200 call/ });
  await expect(row.last()).toBeVisible();
  const kept = async () => {
    const answer = await page.request.get('/api/v1/structures');
    return ((await answer.json()) as { structures: { id: number; legs: { settlement: string }[] }[] }).structures;
  };
  const last = (await kept()).at(-1)!;
  expect(last.legs.map(({ settlement }) => settlement)).toEqual(['am', 'pm']);
  await page.request.delete(`/api/v1/structures/${last.id}`);
});

test('what was picked of one underlying is not priced on another', async ({ page }) => {
  await open(page, '/odds?symbol=MRX40&legs=1c4200@2031-04-17&zones=typed&levels=4000,4300&right=spread&left=zones');
  await expect(page.getByTestId('structure-by-basis')).toBeVisible();
  await page.keyboard.press('/');
  await page.keyboard.type('ISLX');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/symbol=ISLX/);
  await expect(page).not.toHaveURL(/legs=|levels=/);
  await expect(page.getByText('No structure is picked.')).toBeVisible();
});

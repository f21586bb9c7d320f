import { drawn, expect, numberOf, open, test } from './fixtures';

const CONDOR = 'legs=1p3850@2031-04-17,-1p3950@2031-04-17,-1c4450@2031-04-17,1c4550@2031-04-17';

test('legs of the Chain become a profile: limits, odds, a scenario, and back', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-04-17&strike=4300&side=call');
  // By keys: the contract in focus is bought, the next strike over it but one sold.
  await page.keyboard.press('+');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('-');
  await page.getByTestId('structure').getByRole('link', { name: 'profile' }).click();
  await expect(page).toHaveURL(/\/structure\?.*legs=1c4300@2031-04-17,-1c44\d\d@/);
  await drawn(page, 'Profile');
  const facts = page.getByTestId('structure-facts');
  const factOf = async (name: string) =>
    (await facts.locator('div', { hasText: name }).locator('dd').innerText()).trim();
  const legs = page.getByTestId('structure-legs').getByRole('row');
  await expect(legs).toHaveCount(3);
  // What it risks is what it costs, and the two sum to the distance of the strikes, × 10.
  const [gain, loss] = [numberOf(await factOf('most to gain')), numberOf(await factOf('most to lose'))];
  const strikes = /4300@.*-1c(\d+)@/.exec(page.url())!;
  expect(gain + loss).toBeCloseTo(10 * (Number(strikes[1]) - 4300), 1);
  const even = numberOf(await factOf('break-evens'));
  expect(even).toBeCloseTo(4300 + loss / 10, 1);
  // Turned over it takes in what it cost.
  await page.getByRole('button', { name: 'reverse' }).click();
  await expect(facts.locator('div', { hasText: 'most to gain' }).locator('dd')).toContainText(loss.toFixed(1));
});

test('a condor: strips sum to all, dots stand for the past, time and vol move it, and as it is brings it back', async ({
  page,
}) => {
  await open(page, `/structure?symbol=MRX40&${CONDOR}`);
  await drawn(page, 'Profile');
  const facts = page.getByTestId('structure-facts');
  await expect(facts).toContainText('3 930.25 · 4 469.75');
  const strips = page.getByTestId('structure-strips');
  await expect(strips.getByRole('group', { name: 'Twenty past moves' }).locator('span[title]')).toHaveCount(20);
  for (const basis of ['curve', 'past']) {
    const odds = await strips
      .getByRole('group', { name: `Odds by ${basis}` })
      .locator('span[title]')
      .allInnerTexts();
    expect(odds).toHaveLength(3);
    expect(odds.reduce((sum, text) => sum + numberOf(text), 0)).toBeCloseTo(100, 0);
  }
  const profile = page.getByRole('region', { name: 'Profile' });
  await expect(profile.getByRole('list', { name: 'Curves' }).getByRole('listitem')).toHaveCount(4);
  const value = facts.locator('div', { hasText: /^value/ }).locator('dd');
  const before = await value.innerText();
  // With the keys alone.
  await profile.getByRole('slider', { name: 'Days from now' }).focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('scenario-date')).toHaveText('+ 2 d');
  await expect(value).toContainText('(+');
  await expect(profile.getByRole('list', { name: 'Curves' }).getByRole('listitem')).toHaveCount(5);
  await profile.getByRole('slider', { name: 'Points of vol' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(page).toHaveURL(/days=2&volshift=0\.1/);
  await profile.getByRole('button', { name: 'as it is' }).click();
  await expect(value).toHaveText(before);
  await profile.getByRole('button', { name: 'vega' }).click();
  await expect(page).toHaveURL(/draw=vega/);
});

test('without legs it says how they come; a leg that is not listed is named', async ({ page }) => {
  await open(page, '/universe');
  await page.keyboard.press('g');
  await page.keyboard.press('l');
  await expect(page.getByTestId('structure-empty')).toContainText('+ buys and − sells');
  // From the shelf: four legs by their deltas, which take something in.
  await page.getByRole('combobox', { name: 'Shelf' }).selectOption('iron condor');
  await expect(page.getByTestId('structure-legs').locator('tbody tr')).toHaveCount(4);
  await expect(page.getByRole('region', { name: 'Legs' })).toContainText(/Takes in [\d.]+ and risks/);
  await expect(page).toHaveURL(/legs=-1p\d+@.*,1p\d+@.*,-1c\d+@.*,1c\d+@/);
  await page.goto('/structure?symbol=MRX40&legs=1c4301@2031-04-17');
  await expect(page.getByRole('region', { name: 'Profile' })).toContainText('is not listed at this moment');
});

import { drawn, expect, numberOf, open, test } from './fixtures';

test('what is owed is brought to nothing: contracts, then the underlying, as steps; and the trades are taken in hand', async ({
  page,
}) => {
  await open(page, '/chain?symbol=MRX40&legs=-12p4000@2031-04-17,-12c4400@2031-04-17');
  await page.keyboard.press('g');
  await page.keyboard.press('n');
  await expect(page).toHaveURL(/\/hedge\?/);
  const steps = page.getByTestId('hedge-steps').locator('tbody tr');
  await expect(steps.first()).toContainText('exposure');
  const exposure = page.getByTestId('exposure');
  await exposure.getByRole('checkbox', { name: 'vega', exact: true }).check();
  await expect(page).toHaveURL(/neutralize=delta,gamma,vega/);
  // Two contracts and the underlying, each with what is left after it.
  await expect(steps).toHaveCount(7);
  const cells = async (row: number) => (await steps.nth(row).locator('td').allInnerTexts()).map(numberOf);
  // step, lots, units, price, four Greeks of one unit, four of the position, cash.
  const [owed, first, after] = [await cells(0), await cells(1), await cells(2)];
  const [lots, units, price, delta] = first.slice(1);
  expect(units).toBe(10 * lots!);
  expect(Math.abs(first[8]! - units! * delta!)).toBeLessThan(0.0006 * Math.abs(units!));
  for (const column of [8, 9, 10, 11]) expect(after[column]!).toBeCloseTo(owed[column]! + first[column]!, 0);
  expect(first[12]!).toBeCloseTo(-units! * price!, 0);
  const left = await cells(6);
  expect(Math.abs(left[8]!)).toBeLessThanOrEqual(0.5);
  expect(Math.abs(left[10]!)).toBeLessThan(0.1 * Math.abs(owed[10]!));

  // In fractions nothing is left.
  await page.getByRole('button', { name: 'exact' }).click();
  await expect(steps.last()).toContainText('what is left');
  await expect.poll(async () => (await cells(6)).slice(8, 11)).toEqual([0, 0, 0]);
  await page.getByRole('button', { name: 'whole' }).click();

  // A contract that is not to be taken is not; one in focus is offered too.
  const instruments = page.getByTestId('instruments').locator('tbody tr');
  const name = (await steps.nth(1).getByRole('rowheader').innerText()).trim();
  await instruments.filter({ hasText: name }).getByRole('checkbox').uncheck();
  await expect(steps.nth(1)).not.toContainText(name);
  await page.getByRole('button', { name: '+ focus' }).click();
  await expect(instruments).toHaveCount(6);

  // How it holds: a band says when the next trade is due.
  await drawn(page, 'Profit ahead');
  await exposure.getByLabel('Band of delta').fill('40');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('hedge-due')).toContainText('within ±40');
  await expect(page.getByTestId('hedge-left').locator('tbody td')).toHaveCount(25);

  await page.getByRole('button', { name: 'take in hand' }).click();
  await expect(page).toHaveURL(/held=/);
  // What is in hand now is hedged: next to nothing is left to trade.
  await expect
    .poll(async () => Math.abs(numberOf(await exposure.locator('tbody tr').first().locator('td').first().innerText())))
    .toBeLessThanOrEqual(0.5);
});

test('an exposure is typed; what cannot be hedged says why', async ({ page }) => {
  await open(page, '/hedge?symbol=CAIR');
  await expect(page.getByTestId('hedge-missing')).toContainText('No legs are in hand');
  await page.getByRole('button', { name: 'typed' }).click();
  await page.getByLabel('Exposure to gamma').fill('-50');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/exposed=typed&exposure=gamma:-50/);
  const steps = page.getByTestId('hedge-steps').locator('tbody tr');
  await expect(steps).toHaveCount(5);
  await expect(steps.first()).toContainText('−50.0');
  await expect(page.getByRole('button', { name: 'take in hand' })).toBeDisabled();
  for (const box of await page.getByTestId('instruments').getByRole('checkbox').all()) await box.uncheck();
  await expect(page.getByTestId('hedge-none')).toHaveText(/^\s*No hedge: 0 options cannot bring gamma to nothing/);
});

test('what hedging would have brought: by a rule, split by what brought it, in Structure and in Hedge', async ({
  page,
}) => {
  await open(page, '/structure?symbol=MRX40&legs=-1p4000@2031-06-19,-1c4300@2031-06-19');
  await page
    .getByRole('navigation', { name: 'Under the profile' })
    .getByRole('button', { name: 'Hedged past' })
    .click();
  await expect(page).toHaveURL(/under=hedged/);
  const words = page.getByTestId('hedged-words');
  await expect(words).toContainText(/since \d+ \w+/);
  const facts = page.getByTestId('hedged-facts');
  await expect(facts).toContainText(/implied\s*\d+\.\d %\s*realized\s*\d+\.\d %/);
  await drawn(page, 'Hedged past');
  const parts = page.getByTestId('hedged-parts');
  // What was gained, the seven parts of it, and how often it was traded.
  const values = async () =>
    [...(await parts.locator('dd').allInnerTexts()), await facts.locator('dd').nth(4).innerText()].map(numberOf);
  const [sum, , , , , , , , trades] = await values();
  const addsUp = async () => {
    const all = await values();
    return Math.abs(all.slice(1, 8).reduce((total, one) => total + one, 0) - all[0]!) <= 4;
  };
  expect(await addsUp()).toBe(true);
  expect(trades).toBeGreaterThan(60);

  // Costs are paid; a band trades less often, and pays less.
  await page.getByLabel('Cost of the underlying').fill('5');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/hedgecost=5/);
  await expect.poll(async () => (await values())[0]!).toBeLessThan(sum!);
  const costs = (await values())[6]!;
  expect(costs).toBeLessThan(0);
  await page.getByRole('combobox', { name: 'When it is hedged' }).selectOption('out of a band');
  await page.getByLabel('Band of delta').fill('3');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await values())[8]!).toBeLessThan(trades! / 2);
  expect((await values())[6]!).toBeGreaterThan(costs);
  await expect.poll(addsUp).toBe(true);

  // From the moment in view on nothing is held; from an earlier one there is.
  await page.getByRole('button', { name: 'from now on' }).click();
  await expect(page.getByText('held at fewer than two moments')).toBeVisible();
  await open(
    page,
    '/hedge?symbol=MRX40&asof=2030-12-02T16:45:00Z&legs=-1p4200@2030-12-19,-1c4200@2030-12-19&hedgebelow=past&stretch=from',
  );
  await expect(words).toContainText('since 2 Dec');
  await expect(facts).toContainText(/ended\s*yes/);
  await page.getByRole('navigation', { name: 'Under the steps' }).getByRole('button', { name: 'Profit' }).click();
  await expect(page.getByTestId('hedge-ahead')).toBeVisible();
});

test('a contract is offered by a key, a kept structure is exposed, and two hedges are held against each other', async ({
  page,
}) => {
  await open(page, '/chain?symbol=MRX40&expiry=2031-05-15&strike=4500&side=call');
  await page.keyboard.press('i');
  await expect(page.getByText('15 May 4\u2009500 call is offered in Hedge')).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('n');
  const instruments = page.getByTestId('instruments').locator('tbody tr');
  await expect(instruments.filter({ hasText: '15 May 4\u2009500 call' })).toHaveCount(1);

  const kept = {
    symbol: 'MRX40',
    name: 'short strangle',
    legs: [-12, -12].map((quantity, i) => ({
      expiry: '2031-04-17',
      strike: [4000, 4400][i],
      side: ['put', 'call'][i],
      quantity,
    })),
  };
  const answer = await page.request.post('/api/v1/structures', { data: kept });
  const { structures } = (await answer.json()) as { structures: { id: number }[] };
  const { id } = structures.at(-1)!;
  await page.getByRole('button', { name: 'kept', exact: true }).click();
  await page.getByRole('combobox', { name: 'Kept structure that is exposed' }).selectOption('short strangle');
  const exposure = page.getByTestId('exposure');
  await expect(exposure.locator('tbody tr').nth(1)).toContainText('−0.280');
  const steps = page.getByTestId('hedge-steps').locator('tbody tr');
  await expect(steps).toHaveCount(5);

  // What is left of any Greek by price and vol; at the price and the vol that are, as the steps leave it.
  const left = page.getByRole('region', { name: 'What is left' });
  await page.getByRole('slider', { name: 'Days ahead' }).press('Home');
  await expect(page.getByTestId('hedge-ahead')).toHaveText('in 0 days');
  await left.getByRole('combobox').selectOption('vega');
  const middle = left.getByTestId('hedge-left').locator('tbody tr').nth(2).locator('td').nth(2);
  const vega = () => exposure.locator('tbody tr').nth(2);
  const figuresOf = async () => (await middle.innerText()).split('\n').map(numberOf);
  const toldOf = async () => {
    const cells = (await vega().locator('td').allInnerTexts()).map(numberOf);
    return [cells.at(-1), cells[0]];
  };
  await expect.poll(figuresOf).toEqual(await toldOf());

  // Gamma and delta alone against vega too: three numbers in a cell.
  await page.getByRole('button', { name: 'put beside' }).click();
  await exposure.getByRole('checkbox', { name: 'vega', exact: true }).check();
  await expect(steps).toHaveCount(7);
  const falls = async () => {
    const [after, other, before] = (await figuresOf()).map(Math.abs);
    return after! < other! && other! < before!;
  };
  await expect.poll(falls).toBe(true);
  await page.getByRole('button', { name: 'drop the other' }).click();
  await expect.poll(async () => (await figuresOf()).length).toBe(2);
  // The lean is a target too, and the vega of one expiry, for which a contract of it is offered; and the steadiest choice is made.
  await exposure.getByRole('checkbox', { name: 'vega', exact: true }).uncheck();
  await exposure.getByRole('checkbox', { name: '17 Apr vega' }).check();
  await exposure.getByRole('checkbox', { name: 'skew' }).check();
  await expect(page).toHaveURL(/neutralize=delta,gamma,skew,vega@2031-04-17/);
  await expect(instruments.filter({ hasText: '17 Apr' })).toHaveCount(1);
  await page.getByRole('button', { name: 'exact' }).click();
  await page.getByRole('button', { name: 'steadiest' }).click();
  await expect(page).toHaveURL(/choose=steadiest/);
  for (const target of ['delta', 'gamma', 'skew', '17 Apr vega']) {
    const row = exposure.locator('tbody tr').filter({ has: page.getByRole('checkbox', { name: target, exact: true }) });
    await expect(row.locator('td').last()).toHaveText('0');
  }
  await page.request.delete(`/api/v1/structures/${id}`);
});

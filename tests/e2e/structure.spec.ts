import { readFile } from 'node:fs/promises';
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
    (await facts.getByRole('row', { name }).getByRole('cell').first().innerText()).trim();
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
  await expect(facts.getByRole('row', { name: 'most to gain' }).getByRole('cell').first()).toContainText(
    loss.toFixed(1),
  );
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
  const value = facts
    .getByRole('row', { name: /^value/ })
    .getByRole('cell')
    .first();
  const before = await value.innerText();
  // Drawn in per cent of what is at risk the axis says so.
  await profile.getByRole('button', { name: '% risk' }).click();
  await expect(page.getByTestId('structure-drawn')).toContainText('in per cent of the capital at risk');
  await expect(page).toHaveURL(/in=risk/);
  await profile.getByRole('button', { name: 'money' }).click();
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
  await profile.getByRole('combobox', { name: 'What is drawn' }).selectOption('vanna');
  await expect(page).toHaveURL(/draw=vanna/);
  await expect(page.getByTestId('structure-drawn')).toContainText('vanna, in money');
});

test('price, rate and single expiries by hand; own dates and ends; every basis; break-evens leave a trace and lead to Odds', async ({
  page,
}) => {
  await open(page, '/structure?symbol=MRX40&legs=-1c4300@2031-04-17,1c4300@2031-05-15');
  await drawn(page, 'Profile');
  const profile = page.getByRole('region', { name: 'Profile' });
  const facts = page.getByTestId('structure-facts');
  const cellOf = (name: RegExp) => facts.getByRole('row', { name }).getByRole('cell').first();
  const before = await cellOf(/^value/).innerText();
  // Two points more in the far expiry alone bring twice its vega; the near one stays.
  const vols = () => page.getByTestId('structure-legs').locator('tbody tr td:nth-child(5)').allInnerTexts();
  const [near, far] = (await vols()).map(numberOf);
  await profile.getByRole('button', { name: 'Shifts of single expiries' }).click();
  await page.getByLabel('Points of vol of 15 May').fill('2');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(/volshifts=2031-05-15:2/);
  await expect(cellOf(/^value/)).toContainText('(+');
  expect((await vols()).map(numberOf)).toEqual([near, far! + 2]);
  await profile.getByLabel('Move of the price in per cent').fill('-5');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('scenario-price')).toHaveText('3 997.74');
  // What is out of range is not taken over.
  await profile.getByLabel('Points of rate').fill('99');
  await page.keyboard.press('Enter');
  await expect(profile.getByLabel('Points of rate')).toHaveValue('');
  await profile.getByLabel('Points of rate').fill('1');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/move=-5&rateshift=1/);
  await profile.getByRole('button', { name: 'as it is' }).click();
  await expect(cellOf(/^value/)).toHaveText(before);
  await expect(page).not.toHaveURL(/move=|volshifts=|rateshift=/);

  // Ends of the axis are typed, and moved by keys.
  await profile.getByRole('button', { name: 'Axis and dates' }).click();
  await page.getByLabel('Axis from').fill('4000');
  await page.getByLabel('Days to the first date').fill('3');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await expect(page).toHaveURL(/pricefrom=4000&dates=3,23/);
  await expect(profile.getByRole('list', { name: 'Curves' })).toContainText('16 Mar');
  const end = profile.getByRole('slider', { name: 'Upper end of the axis' });
  const upper = Number(await end.getAttribute('aria-valuenow'));
  await end.focus();
  await page.keyboard.press('ArrowLeft');
  await expect(page).toHaveURL(/priceto=/);
  await expect.poll(async () => Number(await end.getAttribute('aria-valuenow'))).toBeLessThan(upper);

  const strips = page.getByTestId('structure-strips').getByRole('group', { name: /^Odds by/ });
  await expect(strips).toHaveCount(2);
  await profile.getByRole('button', { name: 'all bases' }).click();
  await expect(strips).toHaveCount(7);
  await page.getByRole('link', { name: 'in Odds' }).click();
  await expect(page).toHaveURL(/\/odds\?.*levels=/);
  const [first] = new URL(page.url()).searchParams.get('levels')!.split(',');
  const level = page.getByRole('slider', { name: 'Level 1' });
  await expect.poll(async () => Number(await level.getAttribute('aria-valuenow'))).toBeCloseTo(Number(first), 2);
});

test('legs of two deliveries: each is worth what it is on its own, the whole goes by the price in view', async ({
  page,
}) => {
  await open(page, '/structure?symbol=AQFM31&legs=-1c3@2031-05-15,1c3.2@2031-05-15');
  await drawn(page, 'Profile');
  const legs = page.getByTestId('structure-legs').locator('tbody tr');
  const delivery = page.getByRole('combobox', { name: 'Delivery of +1 15 May 3.2 call' });
  await delivery.selectOption('U31');
  // The strike as far from the price there.
  await expect(page).toHaveURL(/legs=-1c3@2031-05-15,1c3@2031-05-15:AQFU31/);
  await drawn(page, 'Profile');
  await expect(legs.nth(1)).toContainText('15 May 3 call');
  // What the contracts do sums to what all of it does, by one price.
  await page.getByRole('button', { name: 'Greeks of legs' }).click();
  const table = page.getByTestId('leg-greeks').locator('tbody tr');
  await expect(table).toHaveCount(3);
  await expect(table.nth(1)).toContainText('AQFU31');
  const deltas = (await table.locator('td:nth-of-type(2)').allInnerTexts()).map(numberOf);
  expect(deltas[0]! + deltas[1]!).toBeCloseTo(deltas[2]!, 1);
  // The Chain says where they are valued; a reload brings all of it back.
  await expect(page).toHaveURL(/under=greeks/);
  await page.reload();
  await expect(table.nth(1)).toContainText('AQFU31');
  await page.keyboard.press('g');
  await page.keyboard.press('c');
  await expect(page.getByRole('alert')).toContainText('Legs of several deliveries: Structure values them together.');
});

test('a sold leg that may be assigned early says why', async ({ page }) => {
  await open(page, '/structure?symbol=CAIR&legs=-1c115@2031-04-17,-1p135@2031-04-17');
  await drawn(page, 'Profile');
  const early = page.getByTestId('may-be-assigned');
  await expect(early).toHaveCount(1);
  await early.hover();
  await expect(page.locator('[data-tooltip-content]')).toContainText('exercising earns the interest until it expires');
});

test('without legs it says how they come; a leg that is not listed is named', async ({ page }) => {
  await open(page, '/universe?symbol=MRX40');
  await page.keyboard.press('g');
  await page.keyboard.press('l');
  await expect(page.getByTestId('structure-empty')).toContainText('+ buys and − sells');
  // From the shelf: four legs by their deltas, which take something in.
  await page.getByRole('button', { name: 'shelf …' }).click();
  const shelf = page.getByRole('dialog', { name: 'Structures of the trade' });
  // What an index cannot hold is not offered.
  await expect(shelf.getByRole('button', { name: 'covered call' })).toBeDisabled();
  await shelf.getByRole('button', { name: 'strikes', exact: true }).click();
  await shelf.getByLabel('How far is far').fill('6');
  await shelf.getByRole('button', { name: 'iron condor' }).click();
  await expect(shelf).toBeHidden();
  await expect(page.getByTestId('structure-legs').locator('tbody tr')).toHaveCount(4);
  await expect(page.getByRole('region', { name: 'Legs' })).toContainText(/Takes in [\d.]+ and risks/);
  await expect(page).toHaveURL(/legs=-1p\d+@.*,1p\d+@.*,-1c\d+@.*,1c\d+@/);
  await page.goto('/structure?symbol=MRX40&legs=1c4301@2031-04-17');
  await expect(page.getByTestId('structure-waiting')).toHaveText('+1 17 Apr 4 301 call is not listed at this moment.');
  await page.getByRole('button', { name: 'take the nearest listed: +1 17 Apr 4 300 call' }).click();
  await expect(page).toHaveURL(/legs=1c4300@2031-04-17/);
  await drawn(page, 'Profile');
});

test('a structure is built: legs are dragged, rolled, split and scaled, each step undone, what was stands beside', async ({
  page,
}) => {
  await open(page, `/structure?symbol=MRX40&${CONDOR}`);
  await drawn(page, 'Profile');
  const profile = page.getByRole('region', { name: 'Profile' });
  const rows = page.getByTestId('structure-legs').locator('tbody tr');
  await page.getByRole('combobox', { name: 'Beside' }).selectOption('this, as it is now');
  await expect(page).toHaveURL(/before=1p3850@/);
  // The sold call is dragged up: its opposite goes as far down.
  const handle = profile.getByRole('slider', { name: 'Strike of −1 17 Apr 4 450 call' });
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 12, y, { steps: 4 });
  await page.mouse.move(x + 24, y, { steps: 4 });
  await page.mouse.up();
  await expect(page).toHaveURL(
    /legs=1p3850@2031-04-17,-1p39[0-4]\d@2031-04-17,-1c44[6-9]\d|legs=1p3850@2031-04-17,-1p39[0-4]\d@2031-04-17,-1c45\d\d/,
  );
  const legs = /legs=([^&]*)/.exec(page.url())![1]!;
  const strikes = [...legs.matchAll(/[pc](\d+)@/g)].map(([, strike]) => Number(strike));
  expect(strikes[1]! + strikes[2]!).toBe(strikes[0]! + strikes[3]!);
  // What was stands beside: its curves, and its facts.
  await expect(profile.getByRole('list', { name: 'Curves' })).toContainText('what stands beside');
  const most = page.getByTestId('structure-facts').getByRole('row', { name: 'most to gain' }).getByRole('cell');
  await expect(most.last()).toHaveText('197.5');
  // One step, however far the hand went.
  await page.keyboard.press('Control+z');
  await expect(page).toHaveURL(/legs=1p3850@2031-04-17,-1p3950@2031-04-17,-1c4450@2031-04-17,1c4550@/);
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  await page.keyboard.press('Control+Shift+Z');
  await expect(page).toHaveURL(new RegExp(`legs=${legs}`));
  await page.keyboard.press('Control+z');
  // By keys: all of them to the next expiry, and a strike on.
  await profile.getByRole('slider', { name: 'All legs' }).focus();
  await page.keyboard.press('ArrowUp');
  await expect(rows.first()).not.toContainText('17 Apr');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rows.first()).toContainText('17 Apr');
  await page.getByRole('button', { name: '× 2, twice as many' }).click();
  await expect(rows.first()).toContainText('+2');
  await page.getByRole('button', { name: 'Split +2 17 Apr 4 550 call' }).click();
  await expect(rows).toHaveCount(5);
  // An index is not traded.
  await expect(page.getByRole('button', { name: 'delta 0' })).toBeDisabled();
});

test('the underlying makes delta nothing; other pictures; Greeks of legs sum to those of the whole', async ({
  page,
}) => {
  await open(page, '/structure?symbol=KELQ&legs=-1c62@2031-04-17,1c62@2031-05-15&under=greeks');
  await drawn(page, 'Profile');
  const profile = page.getByRole('region', { name: 'Profile' });
  await page.getByRole('button', { name: 'delta 0' }).click();
  await expect(page).toHaveURL(/held=-\d+/);
  await expect(page.getByTestId('structure-held')).toContainText('KELQ itself');
  const table = page.getByTestId('leg-greeks');
  await expect(table.locator('tbody tr')).toHaveCount(4);
  const deltas = (await table.locator('tbody tr td:nth-child(3)').allInnerTexts()).map(numberOf);
  // Whole shares leave no more than half a share.
  expect(Math.abs(deltas[3]!)).toBeLessThanOrEqual(0.51);
  expect(deltas[0]! + deltas[1]! + deltas[2]!).toBeCloseTo(deltas[3]!, 1);
  for (const [name, says] of [
    ['by vol', 'today'],
    ['legs', 'each leg alone on'],
    ['map', 'over price and days'],
  ] as const) {
    await profile.getByRole('button', { name, exact: true }).click();
    await expect(profile.getByRole('list', { name: 'Curves' })).toContainText(says);
    await drawn(page, 'Profile');
  }
  await page.getByRole('button', { name: 'Without the underlying' }).click();
  await expect(page.getByTestId('structure-held')).toHaveCount(0);
  // Tied to a price it is quoted there, with the underlying that goes with it.
  await page.getByLabel('Price that it is tied to').fill('63');
  await page.keyboard.press('Tab');
  await expect(page).toHaveURL(/tied=63/);
  await expect(page.getByTestId('structure-tied')).toContainText(/with [+−][\d.]+ of KELQ: \d+ there, \d+ now/);
  // Vols that stick to moneyness say so in the address.
  await profile.getByRole('combobox', { name: 'What keeps its vol' }).selectOption('moneyness');
  await expect(page).toHaveURL(/dynamics=moneyness/);
});

test('a structure is kept by name, put beside another, handed over as a file and taken in again', async ({ page }) => {
  await open(page, '/structure?symbol=TIDL&legs=1c50@2031-04-17,-1c52@2031-04-17&held=-20&under=kept');
  const name = `kept ${Date.now()}`;
  await page.getByRole('textbox', { name: 'Name to keep it by' }).fill(name);
  await page.keyboard.press('Enter');
  const list = page.getByTestId('kept-structures');
  const row = list.getByRole('row').filter({ has: page.locator(`th[title^="${name}"]`) });
  await expect(row).toHaveCount(1);
  await expect(row).toContainText('−20 itself');
  // A file of all of them, which comes in again: there are twice as many.
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'csv', exact: true }).click();
  const text = await readFile(await (await saved).path(), 'utf8');
  const lines = text.split('\r\n').filter((line, i) => i === 0 || line.includes(name));
  expect(lines).toHaveLength(4);
  const file = (rows: readonly string[]) => ({
    name: 'one.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(rows.join('\n')),
  });
  await page.getByLabel('Import structures').setInputFiles(file(lines));
  await expect(row).toHaveCount(2);
  // What makes no sense is told by its row, and nothing of it is kept.
  await page.getByLabel('Import structures').setInputFiles(file([...lines, lines[1]!.replace('call', 'both')]));
  await expect(page.getByRole('alert')).toHaveText('row 5: “both” is neither call nor put nor underlying');
  await expect(row).toHaveCount(2);
  await row.first().getByRole('button', { name: /^Put/ }).click();
  await expect(page).toHaveURL(/before=1c50@/);
  await page.getByRole('button', { name: 'Clear' }).click();
  await open(page, '/structure?symbol=CAIR&legs=1c110@2031-04-17&under=kept');
  // Taken in hand again it brings its underlying along.
  await row.first().getByRole('button', { name: /^TIDL/ }).click();
  await expect(page).toHaveURL(/symbol=TIDL.*legs=1c50@2031-04-17,-1c52@2031-04-17&held=-20/);
  for (const left of [1, 0]) {
    await row
      .first()
      .getByRole('button', { name: /^Delete/ })
      .click();
    await expect(row).toHaveCount(left);
  }
});

test('what traded stands as structures, by size, and one press takes it in hand', async ({ page }) => {
  await open(page, '/structure?symbol=MRX40&legs=1c4300@2031-04-17&under=traded');
  const list = page.getByTestId('traded-structures');
  const first = list.locator('[aria-rowindex="2"]');
  await expect(first).toContainText('vertical');
  const sizes = (await list.getByRole('row').locator('[role="cell"]:nth-child(5)').allInnerTexts()).map(numberOf);
  expect(sizes).toEqual([...sizes].sort((a, b) => b - a));
  const count = async () => Number(await list.getByRole('table').getAttribute('aria-rowcount'));
  const all = await count();
  await page.getByRole('combobox', { name: 'Kind of what traded' }).selectOption('straddle');
  await expect(first).toContainText('straddle');
  expect(await count()).toBeLessThan(all);
  await list.getByRole('button').first().click();
  const rows = page.getByTestId('structure-legs').locator('tbody tr');
  await expect(rows).toHaveCount(2);
  const words = await rows.allInnerTexts();
  expect(words.filter((text) => text.includes('call'))).toHaveLength(1);
  expect(words.filter((text) => text.includes('put'))).toHaveLength(1);
});

import { readFileSync } from 'node:fs';
import { expect, test } from './fixtures';

/** Files come into a database of their own, so that the others find the demo as it is. */
test.use({ baseURL: process.env.E2E_DATA_URL ?? 'http://127.0.0.1:4891' });

const csv = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });

/** A file as somebody else's program writes it: other names, semicolons, decimal commas, days first. */
const foreign = (symbol: string, ...more: string[]) =>
  csv(
    `${symbol}.csv`,
    [
      'Stichtag;Basiswert;Verfall;Basispreis;Typ;Geld;Brief;Notiz',
      `06.01.2031 15:45;${symbol};20.02.2031;95,5;C;5,25;5,75;a`,
      `06.01.2031 15:45;${symbol};20.02.2031;95,5;P;0,95;1,05;b`,
      ...more,
    ].join('\r\n'),
  );
const MATCH = {
  Stichtag: 'asof',
  Basiswert: 'symbol',
  Verfall: 'expiry',
  Basispreis: 'strike',
  Typ: 'side',
  Geld: 'bid',
  Brief: 'ask',
};

test('a measure that moves and comes back is doubtful, and a click goes there', async ({ page }) => {
  // The demo has none: one is put into the answer of the server.
  await page.route('**/api/v1/underlyings/CAIR/snapshots', async (route) => {
    const response = await route.fetch();
    const answer = (await response.json()) as { snapshots: { asof: string; iv90: number }[] };
    const one = answer.snapshots.findLast(({ asof }) => asof.startsWith('2030-10-01'))!;
    one.iv90 += 0.06;
    await route.fulfill({ response, json: answer });
  });
  await page.goto('/data?symbol=CAIR');
  const doubtful = page.getByTestId('doubtful');
  await expect(doubtful).toContainText('iv90');
  await expect(doubtful).toContainText('neither its neighbours nor the price go with it');
  await doubtful.getByRole('button').first().click();
  await expect(page).toHaveURL(/asof=2030-10-01/);
});

test('a file is looked at, matched, checked, imported without its bad row, and taken back', async ({ page }) => {
  await page.goto('/data');
  const input = page.getByLabel('Files to import');
  const look = page.getByTestId('look');
  const verdict = page.getByTestId('verdict');
  await input.setInputFiles(csv('names.csv', 'symbol,name,kind\nDESK,Desk test,index\n'));
  await expect(verdict).toContainText('The columns are known.');
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(verdict).toContainText('Imported, 1 row: records: 1 new');
  await page.getByRole('button', { name: 'Close' }).click();

  const other = '07.01.2031 15:45;DESK;20.02.2031;95,5;X;5,25;5,75;c';
  await input.setInputFiles(foreign('DESK', other));
  await expect(verdict).toContainText('Nothing stands for');
  await expect(page.getByRole('button', { name: 'Check' })).toBeDisabled();
  for (const [theirs, ours] of Object.entries(MATCH)) {
    await page.getByLabel(`What ${theirs} stands for`).selectOption(ours);
    await expect(page.getByLabel(`What ${theirs} stands for`)).toHaveValue(ours);
  }
  // As it is understood, with a mark where the file has it otherwise.
  await expect(look.getByRole('cell', { name: '2031-01-06T15:45' }).first()).toBeVisible();
  await expect(look.getByRole('cell', { name: '5.25' }).first()).toHaveAttribute('title', '5,25 in the file');
  await page.getByRole('button', { name: 'Check' }).click();
  await expect(verdict).toContainText('Checked, 3 rows: snapshots: 1 new, 1 left out for a bad row.');
  await expect(verdict).toContainText('1 bad row.');
  await expect(verdict).toContainText('Left aside: Notiz.');
  await expect(page.getByTestId('faults')).toContainText('row 4side“X”must be one of c, call, p, put');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'as CSV' }).click();
  expect((await download).suggestedFilename()).toBe('errors.csv');
  await expect(page.getByRole('button', { name: 'Import', exact: true })).toBeDisabled();
  await page.getByRole('checkbox', { name: 'without the bad rows' }).check();
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(verdict).toContainText('Imported, 3 rows');
  await page.getByRole('button', { name: 'Close' }).click();

  const row = page.getByTestId('imports').getByRole('row', { name: /DESK\.csv/ });
  await expect(row).toContainText('done');
  await expect(page.getByTestId('held')).toContainText('DESK');
  await row.getByRole('button', { name: 'take back' }).click();
  await expect(row).toContainText('taken back');
  const held = await page.request.get('/api/v1/underlyings/DESK/snapshots');
  expect(await held.json()).toMatchObject({ snapshots: [] });
  // It is still kept, and known by now.
  await row.getByRole('button', { name: 'look' }).click();
  await expect(verdict).not.toContainText('Nothing stands for');
});

test('what can be read in two ways is asked', async ({ page }) => {
  await page.goto('/data');
  await page.getByLabel('Files to import').setInputFiles(csv('paid.csv', 'symbol,ex_date,amount\nCAIR,01/02/2032,1\n'));
  const verdict = page.getByTestId('verdict');
  await expect(verdict).toContainText('“01/02/2032” in ex_date can be read in two ways.');
  await expect(page.getByRole('button', { name: 'Import', exact: true })).toBeDisabled();
  await page.getByLabel('Days').selectOption('dmy');
  await expect(page.getByTestId('look')).toContainText('2032-02-01');
  await expect(page.getByRole('button', { name: 'Import', exact: true })).toBeEnabled();
  await page.getByRole('button', { name: 'Close' }).click();
  await page
    .getByTestId('imports')
    .getByRole('row', { name: /paid\.csv/ })
    .getByRole('button', { name: 'stop' })
    .click();
  await expect(page.getByTestId('imports').getByRole('row', { name: /paid\.csv/ })).toContainText('stopped');
});

test('a file that is no table says why, and what is held is told by day', async ({ page }) => {
  await page.goto('/data');
  await page.getByLabel('Files to import').setInputFiles({
    name: 'broken.parquet',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from('PAR1 this is none'),
  });
  await expect(page.getByRole('alert')).toContainText('Parquet');
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByTestId('held-sentence')).toContainText(
    '2 sessions missing: DRFT on 21 Aug 30, GYRB on 12 Nov 30.',
  );
  await page.getByTestId('held').locator('svg').nth(5).hover();
  await expect(page.getByTestId('held-sentence')).toContainText(
    /snapshots?, [\d\s\u2009]+ of [\d\s\u2009]+ contracts usable/,
  );
});

test('measures are rebuilt while it is told how far it is', async ({ page }) => {
  await page.goto('/data');
  await page.getByRole('button', { name: 'Rebuild measures' }).click();
  const status = page.getByTestId('imports').getByRole('status');
  await expect(status).toContainText('derived anew');
  await expect(page.getByRole('contentinfo')).toContainText('measures are derived anew');
  await status.getByRole('button', { name: 'stop' }).click();
  await expect(status).toHaveCount(0);
});

test('what cannot be meant is set aside with the reason, and put back by hand', async ({ page }) => {
  await page.goto('/data?symbol=QUAY');
  const quality = page.getByTestId('quality');
  await expect(quality).toContainText(
    '19 Jun is set aside: its forward does not agree with carry and the other expiries.',
  );
  await quality.getByRole('button', { name: 'Use 19 Jun' }).click();
  await expect(quality.getByRole('button', { name: 'Set 19 Jun aside' })).toBeVisible();
  await expect(quality).not.toContainText('its forward');
  await quality.getByRole('button', { name: 'Set 19 Jun aside' }).click();
  await expect(quality).toContainText('19 Jun is set aside by hand.');
  await quality.getByRole('button', { name: 'Use 19 Jun' }).click();
  // What was said by hand is taken back: the rule speaks again.
  await expect(quality).toContainText('its forward does not agree');

  await page.getByTestId('held').getByRole('button', { name: 'LMNQ' }).click();
  const aside = page.getByRole('list', { name: 'Quotes set aside' });
  const stale = aside.getByRole('listitem').filter({ hasText: 'it has stood still since the session before' });
  await expect(stale).toHaveCount(1);
  const [, day, strike, side] = (await stale.textContent())!.match(/(\d+ \w{3}) ([\d.]+) (put|call)/)!;
  // The close-up says the same of the contract, and puts it back.
  const expiry = { Apr: '04', Mar: '03', May: '05', Jun: '06', Sep: '09', Dec: '12' }[day!.split(' ')[1]!];
  const date = `2031-${expiry}-${day!.split(' ')[0]!.padStart(2, '0')}`;
  await page.goto(`/chain?symbol=LMNQ&expiry=${date}&strike=${strike}&side=${side}`);
  const closeUp = page.getByTestId('close-up');
  await expect(closeUp).toContainText('set aside: it has stood still');
  await closeUp.getByRole('button', { name: 'use it' }).click();
  await expect(closeUp).not.toContainText('it has stood still');
  await closeUp.getByRole('button', { name: 'set this quote aside' }).click();
  await expect(closeUp).toContainText('set aside by hand');
  await closeUp.getByRole('button', { name: 'use it' }).click();
  await expect(closeUp).toContainText('set aside: it has stood still');
});

test('what is in view is exported', async ({ page }) => {
  await page.goto('/data?symbol=CAIR');
  await expect(page.getByTestId('asof')).toContainText('2031');
  const line = page.getByRole('group', { name: 'Export' });
  await line.getByLabel('What to export').selectOption('chain');
  const file = async () => {
    const download = page.waitForEvent('download');
    await line.getByRole('link', { name: 'Download' }).click();
    const got = await download;
    return { name: got.suggestedFilename(), text: readFileSync(await got.path(), 'utf8') };
  };
  const chain = await file();
  expect(chain.name).toBe('chain.csv');
  expect(chain.text.split('\r\n')[1]).toMatch(/^2031-03-13T16:45:00.000Z,CAIR,2031-03-20,/);
  await line.getByLabel('What to export').selectOption('events');
  await line.getByLabel('Of which underlyings').selectOption('all');
  await line.getByLabel('Format').selectOption('ics');
  expect((await file()).text).toContain('SUMMARY:Luminous Quartz results');
});

test('much is written by a worker while it is told how far it is, and handed over when it is there', async ({
  page,
}) => {
  await page.goto('/data?symbol=CAIR');
  await expect(page.getByTestId('asof')).toContainText('2031');
  const line = page.getByRole('group', { name: 'Export' });
  await line.getByLabel('What to export').selectOption('measures');
  await line.getByLabel('Of which underlyings').selectOption('all');
  await line.getByLabel('Of which moments').selectOption('all');
  await line.getByLabel('Format').selectOption('json');
  const download = page.waitForEvent('download');
  await line.getByRole('button', { name: 'Download' }).click();
  const got = await download;
  expect(got.suggestedFilename()).toBe('measures.json');
  const rows = JSON.parse(readFileSync(await got.path(), 'utf8')) as { symbol: string }[];
  expect(new Set(rows.map(({ symbol }) => symbol)).size).toBeGreaterThan(39);
  expect(rows.length).toBeGreaterThan(10_000);
  // It is kept, for whoever comes later.
  await expect(line.getByRole('link', { name: /^measures.json, .* MB$/ })).toBeVisible();
  await expect(line.getByRole('button', { name: 'Download' })).toBeEnabled();
});

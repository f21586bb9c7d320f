import { priceContract } from '@umwelt/core';
import type { APIRequestContext } from '@playwright/test';
import { expect, test } from './fixtures';

/** Chains with little or nothing in them come into a database of their own. */
const BASE = process.env.E2E_DATA_URL ?? 'http://127.0.0.1:4891';
test.use({ baseURL: BASE });

const ASOF = '2031-03-13T15:45:00Z';
const EXPIRIES = [
  ['2031-04-17', 0.096],
  ['2031-06-19', 0.268],
] as const;
const WIDE = [80, 85, 90, 95, 100, 105, 110, 115, 120];

/** A chain file around a forward of 100 at 25 %, with a line for each contract. */
function chain(symbol: string, strikes: readonly number[], { hasBids = true, price = 100 } = {}): string {
  const lines = EXPIRIES.flatMap(([expiry, years]) =>
    strikes.flatMap((strike) =>
      (['call', 'put'] as const).map((side) => {
        const contract = { model: 'black-76', side, forward: 100, strike, years, rate: 0.04, vol: 0.25 } as const;
        const theory = priceContract(contract).price;
        const bid = hasBids ? Math.max(0, theory - 0.05).toFixed(2) : 0;
        return [ASOF, symbol, expiry, strike, side, bid, (theory + 0.05).toFixed(2), price].join(',');
      }),
    ),
  );
  return ['asof,symbol,expiry,strike,side,bid,ask,underlying_price', ...lines, ''].join('\n');
}

/** Imports a file and waits for its end. */
async function bring(
  request: APIRequestContext,
  text: string,
  query = '',
): Promise<{ status: string; badRows: number }> {
  const sent = await request.post(`${BASE}/api/v1/imports${query}`, {
    data: Buffer.from(text),
    headers: { 'content-type': 'application/octet-stream' },
  });
  const { id } = (await sent.json()) as { id: number };
  const record = async () =>
    (await (await request.get(`${BASE}/api/v1/imports/${id}`)).json()) as { status: string; badRows: number };
  await expect.poll(async () => (await record()).status).toMatch(/done|refused|failed/);
  return record();
}

const SYMBOLS = ['SCTHREE', 'SCONE', 'SCZERO', 'SCFAR', 'SCTWICE'];

test('scarce and wrong chains: the Surface says what is missing, and shows what there is', async ({
  page,
  request,
}) => {
  const rows = SYMBOLS.map((symbol) => `${symbol},Scarce,equity,european`);
  await bring(request, ['symbol,name,kind,exercise', ...rows, ''].join('\n'));
  for (const [symbol, text] of [
    ['SCTHREE', chain('SCTHREE', [95, 100, 105])],
    ['SCONE', chain('SCONE', [100])],
    ['SCZERO', chain('SCZERO', WIDE, { hasBids: false })],
    ['SCFAR', chain('SCFAR', WIDE, { price: 160 })],
  ] as const)
    expect(await bring(request, text), symbol).toMatchObject({ status: 'done', badRows: 0 });

  const skew = page.getByRole('region', { name: 'Skew', exact: true });
  const expiries = page.getByTestId('expiries').locator('tbody tr');
  const goTo = async (symbol: string) => {
    await page.goto(`/surface?symbol=${symbol}`);
    await expect(page.getByTestId('lit')).toBeVisible();
    await expect(expiries).toHaveCount(2);
  };

  await goTo('SCTHREE');
  await expect(skew).toContainText(
    '17 Apr has one vol for all strikes: 6 contracts with a vol are too few for a curve.',
  );
  await expect(expiries.first()).toContainText(/25\.0|24\.9/);
  await goTo('SCONE');
  await expect(skew).toContainText(
    '17 Apr has one vol for all strikes: 2 contracts with a vol are too few for a curve.',
  );
  await expect(expiries.first()).toContainText('2/2');

  await goTo('SCZERO');
  await expect(skew).toContainText('No expiry has a curve at this moment.');
  await expect(skew).toContainText('17 Apr has no curve. All its 18 contracts: no vol: nobody bids.');
  await expect(page.getByRole('region', { name: 'Term structure' })).toContainText('No term structure.');
  await expect(expiries.first()).toContainText('0/18');

  await goTo('SCFAR');
  await expect(skew).toContainText(
    /The forward of 17 Apr does not fit the price: by its quotes it is (99\.9\d|100\.0\d), while the underlying stands at 160\.00\./,
  );
  await expect(expiries.first()).toContainText(/25\.\d|24\.9/);

  // A strike that stands twice is a bad row: its snapshot is left out whole, and nothing is half-written.
  const twice = chain('SCTWICE', WIDE).replace(/^(.*,2031-04-17,100,call,.*)$/m, '$1\n$1');
  expect(await bring(request, twice)).toMatchObject({ status: 'refused', badRows: 1 });
  expect(await bring(request, twice, '?acceptBadRows=true')).toMatchObject({ status: 'done', badRows: 1 });
  await page.goto('/surface?symbol=SCTWICE');
  await expect(skew).toContainText('No chain is held at this moment.');
});

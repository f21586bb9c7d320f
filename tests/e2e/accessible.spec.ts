import axe, { type RunOptions } from 'axe-core';
import type { Page } from '@playwright/test';
import { expect, open, test } from './fixtures';

/** Every view, with what it opens: panels, drawers, pictures. */
const VIEWS = {
  Universe: ['/universe', '/universe?wall=vols', '/universe?symbol=MERI&wall=peers'],
  Chain: [
    '/chain?symbol=MRX40&drawer=theta&tape=on&legs=1c4300@2031-04-17,-1c4400@2031-04-17',
    '/chain?symbol=MRX40&drawer=target&targeting=on',
    '/chain?symbol=MRX40&drawer=priced',
  ],
  Surface: [
    '/surface?symbol=MRX40&view=skew&panel=expiries',
    '/surface?symbol=MRX40&view=map&panel=density',
    '/surface?symbol=MRX40&view=pairs&panel=arbitrage',
    '/surface?symbol=MRX40&view=measures&panel=aside',
  ],
  History: [
    '/history?symbol=MRX40',
    '/history?symbol=MRX40&picture=cone',
    '/history?symbol=MRX40&picture=premium',
    '/history?symbol=LMNQ&picture=announcements',
  ],
  Odds: [
    '/odds?symbol=MRX40&left=expiries&right=contract',
    '/odds?symbol=MRX40&left=zones&right=spread&legs=1c4300@2031-04-17',
    '/odds?symbol=MRX40&left=strikes&right=hedge',
    '/odds?symbol=MRX40&left=events',
  ],
  Structure: [
    '/structure?symbol=MRX40&legs=-1p3950@2031-04-17,1p3850@2031-04-17&days=10&before=1c4300@2031-04-17',
    '/structure?symbol=MRX40&legs=-1p3950@2031-04-17,1p3850@2031-04-17&under=kept&along=map',
    '/structure?symbol=MRX40&legs=-1p3950@2031-04-17,1p3850@2031-04-17&under=traded&along=vol',
    '/structure?symbol=MRX40&legs=-1p4000@2031-06-19,-1c4300@2031-06-19&under=hedged&along=legs',
  ],
  Finder: [
    '/finder?symbol=AURG&findkeep=probabilityOfProfit%20%3E%3D%200.5|iv30%20%3E%205%25',
    '/finder?symbol=AURG&look=chosen&symbols=AURG,LMNQ&foundpicture=scatter&findkinds=calendar',
  ],
  Hedge: [
    '/hedge?symbol=MRX40&legs=-12p4000@2031-04-17,-12c4400@2031-04-17&bands=delta:60',
    '/hedge?symbol=MRX40&exposed=typed&exposure=gamma:-3',
    '/hedge?symbol=MRX40&legs=-1p4000@2031-06-19&hedgebelow=past',
  ],
  Book: [
    '/book?symbol=MRX40&ghost=2031-02-27T16:45:00.000Z&bookopen=/MRX40;/MRX40/MRX40',
    '/book?symbol=MRX40&position=3&bookbelow=position&bookas=days&booksince=entry',
    '/book?symbol=MRX40&position=1&bookbelow=replay&bookstep=moment&asof=2030-12-19T15:15:00.000Z',
  ],
  Pricer: ['/pricer?symbol=MRX40', '/pricer?symbol=MRX40&set=vol=25'],
  Data: ['/data?symbol=MRX40'],
};

/** Rows are alike: what holds of the first holds of all, and looking at each takes minutes. */
const ALIKE = ['tbody tr:nth-of-type(n + 6)', '[role="rowgroup"] > div:nth-of-type(n + 6)'];

/** What is wrong with a page that knows how to tell. @param rules which are asked; all of them unless given */
async function wrongWith(page: Page, rules?: string[]): Promise<object[]> {
  // What styles of other places say is of no use here, and takes as long as all else to ask for.
  const options: RunOptions = { resultTypes: ['violations'], preload: false };
  if (rules) options.runOnly = { type: 'rule', values: rules };
  const exclude = ALIKE.map((selector) => [selector]);
  const { violations } = await page.evaluate(
    ([context, asked]) => (globalThis as unknown as { axe: typeof axe }).axe.run(context, asked),
    [{ exclude }, options] as const,
  );
  return violations.flatMap(({ id, nodes }) => nodes.map(({ target, html }) => ({ id, target, html })));
}

for (const [name, paths] of Object.entries(VIEWS)) {
  test(`${name} can be read and reached by everybody, by day and by night`, async ({ page }) => {
    for (const path of paths) {
      await open(page, path);
      await expect(page.getByText('Loading …')).toHaveCount(0);
      await page.evaluate(axe.source);
      expect(await wrongWith(page), path).toEqual([]);
      // By night the colours are others, and nothing else; on their way there they are neither.
      await page.addStyleTag({ content: '* { transition: none !important }' });
      await page.evaluate("document.documentElement.dataset.theme = 'umwelt-night'");
      expect(await wrongWith(page, ['color-contrast']), `${path} by night`).toEqual([]);
    }
  });
}

import { expect, test as base, type BrowserContext, type ConsoleMessage, type Page } from '@playwright/test';

/** The pages of a process, by the address that they begin at. */
interface Pages {
  at(baseURL: string): Promise<Page>;
  drop(baseURL: string): Promise<void>;
}

/**
 * A page whose console must stay free of errors and warnings. Tests of one process go on in the page of the one before,
 * since loading the application anew takes longer than most of what is tested; one that leaves something behind, or
 * fails, leaves its page to nobody.
 */
export const test = base.extend<{ page: Page }, { pages: Pages }>({
  pages: [
    async ({ browser }, use) => {
      const contexts = new Map<string, BrowserContext>();
      const held = new Map<string, Page>();
      await use({
        async at(baseURL) {
          const context = contexts.get(baseURL) ?? (await browser.newContext({ baseURL, viewport: VIEWPORT }));
          contexts.set(baseURL, context);
          const page = held.get(baseURL) ?? (await context.newPage());
          held.set(baseURL, page);
          return page;
        },
        async drop(baseURL) {
          await held.get(baseURL)?.close();
          held.delete(baseURL);
          await contexts.get(baseURL)?.clearCookies();
        },
      });
      for (const context of contexts.values()) await context.close();
    },
    { scope: 'worker' },
  ],
  page: async ({ pages, baseURL }, use, info) => {
    const page = await pages.at(baseURL!);
    const complaints: string[] = [];
    const listen = (message: ConsoleMessage) => {
      if (['error', 'warning'].includes(message.type())) complaints.push(message.text());
    };
    const note = (error: Error) => complaints.push(error.message);
    page.on('console', listen);
    page.on('pageerror', note);
    await use(page);
    page.off('console', listen);
    page.off('pageerror', note);
    if (info.errors.length > 0 || complaints.length > 0 || (await leavesMore(page, baseURL!)))
      await pages.drop(baseURL!);
    else {
      await page.unrouteAll();
      await page.setViewportSize(VIEWPORT);
    }
    expect(complaints, 'the console').toEqual([]);
  },
});

const VIEWPORT = { width: 1280, height: 800 };

/** Forgets what a test has left in the browser, and says whether the application may still know of it. */
async function leavesMore(page: Page, baseURL: string): Promise<boolean> {
  if (!page.url().startsWith(baseURL)) return true;
  const left = await page.evaluate('localStorage.length + document.cookie.length');
  await page.evaluate('localStorage.clear()');
  return left !== 0;
}

/** Goes along a link within the application, which stays loaded. */
async function follow(page: Page, path: string): Promise<void> {
  await page.evaluate(
    `(path => { const link = document.createElement('a'); link.href = path; document.body.append(link); link.click(); link.remove(); })(${JSON.stringify(path)})`,
  );
  await page.waitForURL((url) => url.pathname === new URL(path, url).pathname);
}

/**
 * Opens a view and waits until its numbers are there. Where the application is loaded, it is left for a page without a
 * workbench and entered again: nothing is left of what was in view.
 */
export async function open(page: Page, path: string): Promise<void> {
  if (page.url() === 'about:blank') await page.goto(path);
  else {
    await follow(page, '/guide');
    await expect(page.getByRole('main', { name: 'Guide' })).toBeVisible();
    // Where the pointer was left it would point at something of the view.
    await page.mouse.move(0, 0);
    await follow(page, path);
  }
  await expect(page.getByTestId('asof')).toContainText(/203\d/);
  if (/^\/(chain|surface)/.test(path)) await expect(page.getByTestId('lit')).toBeVisible();
}

/** Waits until a chart of a section has been drawn, and says how often. */
export async function drawn(page: Page, section: string): Promise<number> {
  const plot = page.getByRole('region', { name: section, exact: true }).getByTestId('plot');
  await expect(plot).toHaveAttribute('data-drawn', /\d+/);
  return Number(await plot.getAttribute('data-drawn'));
}

/** A number as it stands on screen, true minus and thin spaces undone; a star says that it is over fewer sessions. */
export function numberOf(text: string | null): number {
  return Number((text ?? '').replace(/[\u2009\s±%◂▸*]/g, '').replace('−', '-'));
}

export { expect };

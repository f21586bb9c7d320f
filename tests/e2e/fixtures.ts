import { expect, test as base, type BrowserContext, type Page } from '@playwright/test';

/** The one browser of a process with what it has compiled, by the address that its pages begin at. */
type Contexts = (baseURL: string) => Promise<BrowserContext>;

/**
 * A page whose console must stay free of errors and warnings. Pages of one process share what the browser has compiled of the
 * application, and nothing that it remembers of a person.
 */
export const test = base.extend<{ page: Page }, { contexts: Contexts }>({
  contexts: [
    async ({ browser }, use) => {
      const opened = new Map<string, Promise<BrowserContext>>();
      await use((baseURL) => {
        const context = opened.get(baseURL) ?? browser.newContext({ baseURL, viewport: { width: 1280, height: 800 } });
        opened.set(baseURL, context);
        return context;
      });
      for (const context of opened.values()) await (await context).close();
    },
    { scope: 'worker' },
  ],
  page: async ({ contexts, baseURL }, use) => {
    const context = await contexts(baseURL!);
    const page = await context.newPage();
    const complaints: string[] = [];
    page.on('console', (message) => {
      if (['error', 'warning'].includes(message.type())) complaints.push(message.text());
    });
    page.on('pageerror', (error) => complaints.push(error.message));
    await use(page);
    if (page.url().startsWith(baseURL!)) await page.evaluate('localStorage.clear()');
    await context.clearCookies();
    await page.close();
    expect(complaints, 'the console').toEqual([]);
  },
});

/** Opens a view and waits until its numbers are there. */
export async function open(page: Page, path: string): Promise<void> {
  await page.goto(path);
  await expect(page.getByTestId('asof')).toContainText('2031');
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

import { expect, test as base, type Page } from '@playwright/test';

/** A page whose console must stay free of errors and warnings. */
export const test = base.extend<{ page: Page }>({
  page: async ({ page }, use) => {
    const complaints: string[] = [];
    page.on('console', (message) => {
      if (['error', 'warning'].includes(message.type())) complaints.push(message.text());
    });
    page.on('pageerror', (error) => complaints.push(error.message));
    await use(page);
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

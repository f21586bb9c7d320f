import { expect, open, test } from './fixtures';

test('anything is done by its name: a date, an expiry, a basis, a view, a screen', async ({ page }) => {
  await open(page, '/chain?symbol=MRX40');
  const dialog = page.getByRole('dialog', { name: 'Do anything by its name' });
  const options = dialog.getByRole('option');
  const find = async (text: string, first: RegExp) => {
    await page.keyboard.press('Control+k');
    await expect(dialog).toBeVisible();
    await page.keyboard.type(text);
    await expect(options.first()).toHaveText(first);
    await page.keyboard.press('Enter');
    await expect(dialog).toBeHidden();
  };
  await find('4 Oct', /date\s*4 Oct 2030/);
  await expect(page.getByTestId('asof')).toContainText('Fri 4 Oct 2030');
  await find('19 dec', /expiry\s*19 Dec/);
  await expect(page.getByTestId('lit')).toContainText('19 Dec');
  await find('level', /basis\s*level basis/);
  await expect(page.getByTestId('basis')).toHaveValue('level');
  await find('cairn', /underlying\s*CAIR/);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('CAIR');
  await find('rich ag', /screen\s*Rich against realized/);
  await expect(page).toHaveURL(/\/universe\?.*keep=iv30/);
  await expect(page.getByRole('combobox', { name: 'Screen' })).toHaveValue('Rich against realized');

  // What was done last stands first; arrows lead on, and Escape does nothing.
  await page.keyboard.press('Control+k');
  await expect(options.first()).toHaveText(/Rich against realized/);
  await expect(options.nth(1)).toHaveText(/CAIR/);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(dialog).toBeHidden();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('xyzzy');
  await expect(dialog).toContainText('Nothing is called “xyzzy”.');
  await page.keyboard.press('Escape');
  await expect(dialog).toBeHidden();
});

test('what is typed before the palette and the underlyings are there is done when they are', async ({ page }) => {
  let arrive = () => {};
  const arrived = new Promise<void>((resolve) => (arrive = resolve));
  await page.route(/\/underlyings(\?|$)/, async (route) => {
    await arrived;
    await route.continue();
  });
  // Anew, so that nothing of the application is loaded.
  await page.goto('/odds?symbol=MRX40');
  await expect(page.getByRole('navigation').first()).toBeVisible();
  await page.keyboard.press('/');
  await page.keyboard.type('ISLY');
  await page.keyboard.press('Backspace');
  await page.keyboard.type('X');
  await page.keyboard.press('Enter');
  arrive();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('ISLX');
  await expect(page.getByRole('dialog')).toBeHidden();
});

test('parts of a view are dragged, moved by keys, and keep their sizes', async ({ page }) => {
  await open(page, '/surface?symbol=MRX40');
  const divider = page.getByRole('separator', { name: 'Width of the main panel' });
  const skew = page.getByRole('region', { name: 'Skew' });
  const widthOf = async () => (await skew.boundingBox())!.width;
  const before = await widthOf();
  const box = (await divider.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 200);
  await page.mouse.down();
  await page.mouse.move(box.x - 100, box.y + 200, { steps: 5 });
  await page.mouse.up();
  await expect.poll(widthOf).toBeLessThan(before - 60);
  const dragged = await widthOf();

  // Arrows move it, and leave the focus where it is.
  const lit = await page.getByTestId('lit').textContent();
  await divider.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(widthOf).toBeGreaterThan(dragged + 20);
  await expect(page.getByTestId('lit')).toHaveText(lit!);
  const moved = await widthOf();
  const other = await page.context().newPage();
  await open(other, '/surface?symbol=CAIR');
  await expect
    .poll(async () => (await other.getByRole('region', { name: 'Skew' }).boundingBox())!.width)
    .toBeCloseTo(moved, -1);
  await other.close();
});

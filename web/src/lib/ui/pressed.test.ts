import { afterEach, describe, expect, it, vi } from 'vitest';

describe('what waits for a hand', () => {
  afterEach(() => vi.unstubAllGlobals());

  it('runs at once where no pointer is pressed, else when it is released, unless it is forgotten', async () => {
    const page = new EventTarget();
    vi.stubGlobal('window', page);
    vi.resetModules();
    const { whenReleased } = await import('./pressed');
    const ran: string[] = [];
    whenReleased(() => ran.push('at once'));
    page.dispatchEvent(new Event('pointerdown'));
    whenReleased(() => ran.push('released'));
    const forget = whenReleased(() => ran.push('forgotten'));
    forget();
    expect(ran).toEqual(['at once']);
    page.dispatchEvent(new Event('pointerup'));
    expect(ran).toEqual(['at once', 'released']);
    page.dispatchEvent(new Event('pointerdown'));
    whenReleased(() => ran.push('broken off'));
    page.dispatchEvent(new Event('pointercancel'));
    page.dispatchEvent(new Event('pointerup'));
    expect(ran).toEqual(['at once', 'released', 'broken off']);
    const moved = (buttons: number) => page.dispatchEvent(Object.assign(new Event('pointermove'), { buttons }));
    page.dispatchEvent(new Event('pointerdown'));
    whenReleased(() => ran.push('let go outside'));
    moved(1);
    expect(ran).toHaveLength(3);
    moved(0);
    expect(ran).toEqual(['at once', 'released', 'broken off', 'let go outside']);
  });
});

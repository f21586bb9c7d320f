/** Whether a pointer is pressed anywhere, and what waits for its release. */
let isPressed = false;
const waiting = new Set<() => void>();

function release(): void {
  isPressed = false;
  for (const run of waiting) run();
  waiting.clear();
}

if (typeof window !== 'undefined') {
  const options = { capture: true, passive: true };
  window.addEventListener('pointerdown', () => (isPressed = true), options);
  for (const name of ['pointerup', 'pointercancel'] as const) window.addEventListener(name, release, options);
  // Let go outside the window nobody hears of it before it comes back.
  window.addEventListener('pointermove', ({ buttons }) => void (isPressed && buttons === 0 && release()), options);
}

/**
 * Runs something now, or once the pointer that is pressed is released: what would hold up a hand that only rests.
 *
 * @returns what forgets it
 */
export function whenReleased(run: () => void): () => void {
  if (!isPressed) run();
  else waiting.add(run);
  return () => waiting.delete(run);
}

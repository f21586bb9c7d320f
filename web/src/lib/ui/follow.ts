/**
 * Follows a pointer that was pressed on an element until it is let go, even where the element is gone by then.
 *
 * @param move called wherever it goes
 * @param end called once when it is let go
 */
export function followPointer(event: PointerEvent, move: (at: PointerEvent) => void, end: () => void): void {
  event.preventDefault();
  const { pointerId } = event;
  (event.currentTarget as HTMLElement).setPointerCapture(pointerId);
  const follow = (at: PointerEvent) => {
    if (at.pointerId === pointerId) move(at);
  };
  const stop = (at: PointerEvent) => {
    if (at.pointerId !== pointerId) return;
    window.removeEventListener('pointermove', follow);
    for (const name of ['pointerup', 'pointercancel'] as const) window.removeEventListener(name, stop);
    end();
  };
  window.addEventListener('pointermove', follow);
  for (const name of ['pointerup', 'pointercancel'] as const) window.addEventListener(name, stop);
}

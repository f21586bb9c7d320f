/** What was typed before anything was there to take it. */
export interface TypedAhead {
  readonly text: string;
  /** Whether Enter was pressed after it. */
  readonly isEntered: boolean;
}

export const NOTHING_TYPED: TypedAhead = { text: '', isEntered: false };

/**
 * Holds what is typed for a part that is still being loaded: no letter is lost, and none is a key of the application.
 *
 * @param leave called when Escape is pressed
 * @returns what ends the holding, and says what was typed
 */
export function typeAhead(leave: () => void): () => TypedAhead {
  let text = '';
  let isEntered = false;
  const take = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 'Escape') leave();
    else if (event.key === 'Enter') isEntered = true;
    else if (event.key === 'Backspace') text = text.slice(0, -1);
    else if (event.key.length === 1) text += event.key;
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  window.addEventListener('keydown', take, { capture: true });
  return () => {
    window.removeEventListener('keydown', take, { capture: true });
    return { text, isEntered };
  };
}

import { tinykeys } from 'tinykeys';
import type { Action } from './actions';

/** Whether the event is for something that takes keys itself. */
function isTaken(event: KeyboardEvent): boolean {
  if (document.querySelector('dialog[open]')) return true;
  const target = event.target instanceof Element ? event.target : null;
  if (!target) return false;
  if (target.matches('input, textarea, select, [contenteditable]')) return true;
  // A divider between panes is moved by arrows, and space presses the button that has the keyboard.
  if (event.key.startsWith('Arrow') && target.matches('[role="separator"], [role="slider"]')) return true;
  return event.key === ' ' && target.matches('button, a, summary');
}

/**
 * Listens for + and −, which pick the contract in focus.
 *
 * @param pick called with 1 and −1
 * @returns what stops listening
 */
export function listenForLegs(pick: (quantity: number) => void): () => void {
  const listen = (event: KeyboardEvent) => {
    const quantity = { '+': 1, '-': -1, '−': -1 }[event.key];
    if (quantity === undefined || event.ctrlKey || event.metaKey || event.altKey || isTaken(event)) return;
    event.preventDefault();
    pick(quantity);
  };
  window.addEventListener('keydown', listen);
  return () => window.removeEventListener('keydown', listen);
}

/** Whether a key works wherever the focus is: those with a modifier, outside dialogs. */
const isGlobal = (event: KeyboardEvent) => (event.ctrlKey || event.metaKey) && !document.querySelector('dialog[open]');

/**
 * Listens for the keys of the whole application.
 *
 * @returns what stops listening
 */
export function listenForKeys(actions: readonly Action[]): () => void {
  const on = (run: () => void) => (event: KeyboardEvent) => {
    if (isTaken(event) && !isGlobal(event)) return;
    event.preventDefault();
    run();
  };
  const bindings = actions.flatMap((action) => Object.entries(action.bindings));
  return tinykeys(window, Object.fromEntries(bindings.map(([key, run]) => [key, on(run)])));
}

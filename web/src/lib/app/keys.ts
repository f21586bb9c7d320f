import { tinykeys } from 'tinykeys';
import { BASES, type Basis } from '@umwelt/core';
import type { Workbench } from '$lib/state';
import { VIEWS } from './views';

/** The keys, as the help lists them. */
export const KEY_HELP: readonly { keys: readonly string[]; what: string }[] = [
  { keys: ['['], what: 'one session back' },
  { keys: [']'], what: 'one session on' },
  { keys: ['{', '}'], what: 'one moment back, on' },
  { keys: ['space'], what: 'play and pause' },
  { keys: ['m'], what: 'ghost: keep a moment in view' },
  { keys: ['↑', '↓'], what: 'focus along strikes' },
  { keys: ['←', '→'], what: 'focus along expiries' },
  { keys: ['.'], what: 'flip put and call' },
  { keys: ['+', '−'], what: 'in the Chain: pick the focus as bought, as sold' },
  { keys: ['b'], what: 'next vol basis' },
  ...VIEWS.map(({ key, title }) => ({ keys: ['g', key], what: `go to ${title}` })),
  { keys: ['w'], what: 'the working of what is lit' },
  { keys: ['/'], what: 'find an underlying' },
  { keys: ['e'], what: 'export what is in view' },
  { keys: ['t'], what: 'light or dark' },
  { keys: ['?'], what: 'this list' },
];

export interface KeyActions {
  bench: Workbench;
  open: (view: string) => void;
  find: () => void;
  exports: () => void;
  help: () => void;
  theme: () => void;
  working: () => void;
}

const nextBasis = (basis: Basis) => BASES[(BASES.indexOf(basis) + 1) % BASES.length]!;

/** Whether the event is for something that takes keys itself. */
function isTaken(event: KeyboardEvent): boolean {
  if (document.querySelector('dialog[open]')) return true;
  const target = event.target instanceof Element ? event.target : null;
  if (!target) return false;
  if (target.matches('input, textarea, select, [contenteditable]')) return true;
  // Space presses the button that has the keyboard.
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

/**
 * Listens for the keys of the whole application.
 *
 * @returns what stops listening
 */
export function listenForKeys({ bench, open, find, exports, help, theme, working }: KeyActions): () => void {
  const on = (action: () => void) => (event: KeyboardEvent) => {
    if (isTaken(event)) return;
    event.preventDefault();
    action();
  };
  return tinykeys(window, {
    '[': on(() => bench.moment.step(-1)),
    ']': on(() => bench.moment.step(1)),
    'Shift+{': on(() => bench.moment.stepMoment(-1)),
    'Shift+}': on(() => bench.moment.stepMoment(1)),
    Space: on(() => bench.playback.toggle()),
    m: on(() => bench.moment.toggleGhost()),
    ArrowUp: on(() => bench.focus.move('strike', 1)),
    ArrowDown: on(() => bench.focus.move('strike', -1)),
    ArrowLeft: on(() => bench.focus.move('expiry', -1)),
    ArrowRight: on(() => bench.focus.move('expiry', 1)),
    '.': on(() => bench.focus.flip()),
    b: on(() => (bench.context.basis = nextBasis(bench.context.basis))),
    ...Object.fromEntries(VIEWS.map(({ key, name }) => [`g ${key}`, on(() => open(name))])),
    '/': on(find),
    e: on(exports),
    t: on(theme),
    w: on(working),
    '?': on(help),
    'Shift+?': on(help),
  });
}

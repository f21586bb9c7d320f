import { BASES, type Basis } from '@umwelt/core';
import type { Workbench } from '$lib/state';
import { VIEWS } from './views';

/** What can be done over every view. */
export interface Action {
  readonly what: string;
  /** How its keys are written. */
  readonly keys: readonly string[];
  /** What each key does, by its name as tinykeys reads it. */
  readonly bindings: Readonly<Record<string, () => void>>;
  /** What the palette does; where it is missing only keys make sense. */
  readonly run?: () => void;
}

/** What actions need beside the workbench. */
export interface ActionTargets {
  bench: Workbench;
  open: (view: string) => void;
  palette: () => void;
  find: () => void;
  exports: () => void;
  help: () => void;
  theme: () => void;
  bases: () => void;
}

const nextBasis = (basis: Basis) => BASES[(BASES.indexOf(basis) + 1) % BASES.length]!;

/** Everything that keys do, in the order of the help. */
export function actionsOf({ bench, open, ...dialogs }: ActionTargets): Action[] {
  const { moment, focus, playback, context } = bench;
  const one = (what: string, key: string, run: () => void, binding = key): Action => ({
    ...{ what, keys: [key], bindings: { [binding]: run }, run },
  });
  const pair = (what: string, keys: readonly [string, string], bindings: Action['bindings']): Action => ({
    ...{ what, keys, bindings },
  });
  return [
    one('one session back', '[', () => moment.step(-1)),
    one('one session on', ']', () => moment.step(1)),
    pair('one moment back, on', ['{', '}'], {
      'Shift+{': () => moment.stepMoment(-1),
      'Shift+}': () => moment.stepMoment(1),
    }),
    one('play and pause', 'space', () => playback.toggle(), 'Space'),
    one('ghost: keep a moment in view', 'm', () => moment.toggleGhost()),
    pair('focus along strikes', ['↑', '↓'], {
      ArrowUp: () => focus.move('strike', 1),
      ArrowDown: () => focus.move('strike', -1),
    }),
    pair('focus along expiries', ['←', '→'], {
      ArrowLeft: () => focus.move('expiry', -1),
      ArrowRight: () => focus.move('expiry', 1),
    }),
    one('flip put and call', '.', () => focus.flip()),
    { what: 'in the Chain: pick the focus as bought, as sold', keys: ['+', '−'], bindings: {} },
    one('next vol basis', 'b', () => (context.basis = nextBasis(context.basis))),
    { what: 'what the bases are', keys: [], bindings: {}, run: dialogs.bases },
    ...VIEWS.map(({ key, title, name }): Action => ({
      ...{ what: `go to ${title}`, keys: ['g', key], bindings: { [`g ${key}`]: () => open(name) } },
      run: () => open(name),
    })),
    ...VIEWS.flatMap(({ actions = [] }) => actions.map(({ what, key, run }) => one(what, key, () => run(bench)))),
    one('the working of what is lit', 'w', () => bench.dialogs.openWorking()),
    one('find an underlying', '/', dialogs.find),
    { ...one('do anything by its name', 'ctrl k', dialogs.palette, '$mod+k'), run: undefined },
    one('export what is in view', 'e', dialogs.exports),
    one('light or dark', 't', dialogs.theme),
    { ...one('keys', '?', dialogs.help), bindings: { '?': dialogs.help, 'Shift+?': dialogs.help } },
  ];
}

import type { ViewCommands } from '$lib/state/view';
import { paramsOf } from './asked';
import { PARAMS } from './params';
import { loadTemplates, SHIPPED_TEMPLATES } from './templates';

/** Templates: those that are kept, and those that come with the application. */
export const commandsOf: ViewCommands['commandsOf'] = async (bench, open) =>
  [...(await loadTemplates()), ...SHIPPED_TEMPLATES].map(({ name, asked }) => ({
    id: `template ${name}`,
    kind: 'template',
    label: name,
    run: () => {
      Object.assign(bench.address.of(PARAMS), paramsOf(asked), { row: '', rowOrder: '' });
      open('finder');
    },
  }));

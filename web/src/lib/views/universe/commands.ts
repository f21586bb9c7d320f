import type { ViewCommands } from '$lib/state/view';
import { loadKept } from './kept';
import { PARAMS } from './params';
import { SHIPPED_SCREENS } from '$lib/columns';
import { showScreen } from './shipped';

/** Screens: those that are kept, and those that come with the application. */
export const commandsOf: ViewCommands['commandsOf'] = async (bench, open) =>
  [...(await loadKept()), ...SHIPPED_SCREENS].map((screen) => ({
    id: `screen ${screen.name}`,
    kind: 'screen',
    label: screen.name,
    run: () => {
      const params = bench.address.of(PARAMS);
      showScreen(screen, params);
      params.wall = 'none';
      open('universe');
    },
  }));

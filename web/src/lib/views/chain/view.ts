import icon from '@lucide/svelte/icons/rows-3';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = {
  ...{ name: 'chain', title: 'Chain', key: 'c', icon, contract: 'close-up', params: PARAMS },
  // Only those who look at the tape load it.
  beside: { isWanted: ({ address }) => address.of(PARAMS).hasTape, load: () => import('./TapePanel.svelte') },
  commands: () => import('./commands'),
};

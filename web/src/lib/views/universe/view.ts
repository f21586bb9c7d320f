import icon from '@lucide/svelte/icons/globe';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = {
  ...{ name: 'universe', title: 'Universe', key: 'u', icon, params: PARAMS },
  commands: () => import('./commands'),
};

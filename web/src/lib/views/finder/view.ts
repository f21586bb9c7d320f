import icon from '@lucide/svelte/icons/telescope';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = {
  ...{ name: 'finder', title: 'Finder', key: 'f', icon, params: PARAMS },
  commands: () => import('./commands'),
};

import icon from '@lucide/svelte/icons/scale';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = {
  ...{ name: 'hedge', title: 'Hedge', key: 'n', icon, params: PARAMS },
  actions: [
    {
      what: 'offer the focus to Hedge',
      key: 'i',
      run: (bench) => void import('./offer').then(({ offerByKey }) => offerByKey(bench)),
    },
  ],
};

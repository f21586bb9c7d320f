import icon from '@lucide/svelte/icons/chart-no-axes-combined';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = { name: 'odds', title: 'Odds', key: 'o', icon, contract: 'lit', params: PARAMS };

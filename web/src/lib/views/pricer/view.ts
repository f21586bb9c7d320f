import icon from '@lucide/svelte/icons/calculator';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = { name: 'pricer', title: 'Pricer', key: 'p', icon, params: PARAMS };

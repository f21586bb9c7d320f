import icon from '@lucide/svelte/icons/spline';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = { name: 'structure', title: 'Structure', key: 'l', icon, params: PARAMS };

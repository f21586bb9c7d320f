import icon from '@lucide/svelte/icons/chart-spline';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = { name: 'history', title: 'History', key: 'h', icon, params: PARAMS };

import icon from '@lucide/svelte/icons/database';
import type { View } from '$lib/state/view';

export const view: View = { name: 'data', title: 'Data', key: 'd', icon };

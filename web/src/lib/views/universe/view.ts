import icon from '@lucide/svelte/icons/globe';
import type { View } from '$lib/ui/view';

export const view: View = { name: 'universe', title: 'Universe', key: 'u', icon };

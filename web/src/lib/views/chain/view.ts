import icon from '@lucide/svelte/icons/rows-3';
import type { View } from '$lib/ui/view';

export const view: View = { name: 'chain', title: 'Chain', key: 'c', icon, contract: 'close-up' };

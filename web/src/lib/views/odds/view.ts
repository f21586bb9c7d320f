import icon from '@lucide/svelte/icons/chart-no-axes-combined';
import type { View } from '$lib/ui/view';

export const view: View = { name: 'odds', title: 'Odds', key: 'o', icon, contract: 'lit' };

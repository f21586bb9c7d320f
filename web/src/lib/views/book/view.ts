import icon from '@lucide/svelte/icons/notebook-tabs';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = { name: 'book', title: 'Book', key: 'k', icon, params: PARAMS };

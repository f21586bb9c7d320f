import icon from '@lucide/svelte/icons/waves';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = { name: 'surface', title: 'Surface', key: 's', icon, contract: 'close-up', params: PARAMS };

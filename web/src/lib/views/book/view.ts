import icon from '@lucide/svelte/icons/notebook-tabs';
import type { View } from '$lib/state/view';
import { PARAMS } from './params';

export const view: View = {
  ...{ name: 'book', title: 'Book', key: 'k', icon, params: PARAMS },
  actions: [
    {
      what: 'put what is in hand into the book',
      key: 'j',
      run: (bench) => void import('$lib/book/into').then(({ intoBook }) => intoBook(bench)),
    },
  ],
};

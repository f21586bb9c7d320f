/**
 * The views, in the order of the rail: a new one is its folder and a line here. Rail, keys, help and titles are made of this;
 * only `view.ts` of each is loaded for it.
 */
import { view as book } from '$lib/views/book/view';
import { view as chain } from '$lib/views/chain/view';
import { view as data } from '$lib/views/data/view';
import { view as finder } from '$lib/views/finder/view';
import { view as hedge } from '$lib/views/hedge/view';
import { view as history } from '$lib/views/history/view';
import { view as odds } from '$lib/views/odds/view';
import { view as pricer } from '$lib/views/pricer/view';
import { view as structure } from '$lib/views/structure/view';
import { view as surface } from '$lib/views/surface/view';
import { view as universe } from '$lib/views/universe/view';
import { registryOf } from './registry';

export const VIEWS = registryOf([
  universe,
  chain,
  surface,
  history,
  odds,
  pricer,
  structure,
  finder,
  hedge,
  book,
  data,
]);

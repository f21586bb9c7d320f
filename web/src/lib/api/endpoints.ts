import * as activity from './activity/endpoints';
import * as book from './book/endpoints';
import * as calculators from './calculators/endpoints';
import * as exports from './exports/endpoints';
import * as feed from './feed/endpoints';
import * as finder from './finder/endpoints';
import * as hedge from './hedge/endpoints';
import * as imports from './imports/endpoints';
import * as screens from './screens/endpoints';
import * as service from './service/endpoints';
import * as snapshots from './snapshots/endpoints';
import * as structures from './structures/endpoints';
import * as tasks from './tasks/endpoints';
import * as underlyings from './underlyings/endpoints';
import type { Endpoint } from './define';

/** Definitions by resource. */
export const RESOURCES = {
  activity,
  book,
  calculators,
  exports,
  feed,
  finder,
  hedge,
  imports,
  screens,
  service,
  snapshots,
  structures,
  tasks,
  underlyings,
};

/** What each resource is about, in the order of the document. */
export const TAGS: Record<keyof typeof RESOURCES, string> = {
  service: 'whether it answers',
  calculators: 'without anything that is held',
  underlyings: 'what is held by session',
  snapshots: 'quotes, fits and curves at a moment, and what is decided about them',
  activity: 'what traded, what is open, what was expected',
  structures: 'legs that are kept as one',
  finder: 'structures that are looked for',
  book: 'what is held: positions, trades, what they are worth',
  hedge: 'what to trade so that an exposure is nothing',
  screens: 'formulas over all underlyings',
  imports: 'files that come in, and what is held',
  exports: 'tables as files',
  tasks: 'long work',
  feed: 'the simulated market after the last moment',
};

type Resources = typeof RESOURCES;
type Every = { [R in keyof Resources]: Resources[R][keyof Resources[R]] }[keyof Resources];

/** Endpoints by what is asked: `GET /underlyings/{symbol}`. */
export type Api = { [E in Every as `${E['method']} ${E['path']}`]: E };

export const ENDPOINTS: readonly Endpoint[] = Object.values(RESOURCES).flatMap((resource): Endpoint[] =>
  Object.values(resource),
);

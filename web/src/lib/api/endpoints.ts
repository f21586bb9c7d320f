import * as activity from './activity/endpoints';
import * as calculators from './calculators/endpoints';
import * as exports from './exports/endpoints';
import * as feed from './feed/endpoints';
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
  calculators,
  exports,
  feed,
  imports,
  screens,
  service,
  snapshots,
  structures,
  tasks,
  underlyings,
};

type Resources = typeof RESOURCES;
type Every = { [R in keyof Resources]: Resources[R][keyof Resources[R]] }[keyof Resources];

/** Endpoints by what is asked: `GET /underlyings/{symbol}`. */
export type Api = { [E in Every as `${E['method']} ${E['path']}`]: E };

export const ENDPOINTS: readonly Endpoint[] = Object.values(RESOURCES).flatMap((resource): Endpoint[] =>
  Object.values(resource),
);

import { UNDERLYING_KINDS } from '@umwelt/core';
import { expandColumns, type Screen } from '$lib/columns';
import { PARAMS, type UniverseParams } from './params';

/** Shows a screen: its columns, conditions and order take the place of those in view. */
export function showScreen(screen: Omit<Screen, 'name'>, params: UniverseParams): void {
  params.show = expandColumns(screen.columns);
  params.keep = [...screen.filters];
  params.kinds = UNDERLYING_KINDS.filter((kind) => screen.kinds.includes(kind));
  params.families = [...screen.families];
  params.sort = screen.sort || PARAMS.start.sort;
}

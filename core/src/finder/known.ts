import { impliedColumns } from '../chain';
import { drawPaths } from '../odds';
import { forecastBy, type BarColumns, type VolModel } from '../realized';
import type { ExpiryVols, FinderMarket } from './market';

/** What is known of an underlying at a moment, from which it is looked through. */
export interface KnownForFinder extends Pick<FinderMarket, 'slices' | 'around' | 'announced'> {
  /** Bars that were over by then. */
  readonly bars: BarColumns;
  /** The vol of one's own: a forecast from the bars, or typed. */
  readonly own: VolModel | number;
  /** Whether past moves are made to lead to the forward; else they lead where they led. */
  readonly isRecentred: boolean;
}

/** An underlying as it is looked through, by what is known of it. */
export function finderMarket({ slices, around, announced, bars, own, isRecentred }: KnownForFinder): FinderMarket {
  const ownVol = typeof own === 'number' ? () => own : forecastBy(own, bars);
  const solved: ExpiryVols[] = [];
  const drift = isRecentred ? 'forward' : 'kept';
  return {
    ...{ slices, around, announced },
    vols: (at) => {
      // Of those alone that are looked through.
      const { strike, call, put, fit } = slices[at]!;
      return (solved[at] ??= {
        call: impliedColumns(strike, call, fit, 1, around.on),
        put: impliedColumns(strike, put, fit, -1, around.on),
      });
    },
    past: ({ sessions, forward }) =>
      drawPaths(bars, { sessions, start: Math.log(around.spot / forward), sampling: 'stretches', drift }),
    ownVol: ({ sessions }) => ownVol(sessions),
  };
}

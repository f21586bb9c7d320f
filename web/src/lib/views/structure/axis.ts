import { MARGIN } from '$lib/charts/lines';

/** The axis of prices as the profile draws it: what lies over and under it keeps to the same places. */
export interface PriceAxis {
  from: number;
  to: number;
  /** Pixels of its ends. */
  left: number;
  right: number;
  /** Prices to a pixel. */
  perPixel: number;
  /** Where a price stands; one beyond an end stands there. */
  toX: (price: number) => number;
}

/** @param x prices that are drawn, ascending @param width of the chart in pixels */
export function axisOf(x: Float64Array, width: number): PriceAxis {
  const [from, to] = [x[0]!, x.at(-1)!];
  const inner = Math.max(1, width - MARGIN.l - MARGIN.r);
  return {
    ...{ from, to, left: MARGIN.l, right: MARGIN.l + inner, perPixel: (to - from) / inner },
    toX: (price) => MARGIN.l + inner * Math.min(1, Math.max(0, (price - from) / (to - from))),
  };
}

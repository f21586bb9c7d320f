import {
  hedgeBy,
  neutralize,
  toWhole,
  UNDERLYING_ID,
  type Hedge,
  type HedgeGreek,
  type HedgeRefused,
  type HedgeRequest,
} from './neutralize';

/** Whole quantities that are tried on either side of each that is wanted. */
const AROUND = 2;
/** More options than that are rounded alone: each takes five times as many tries. */
const MOST_OPTIONS = 5;

/** A hedge in whole numbers, and what rounding alone would leave. */
export interface WholeHedge<Name extends string = HedgeGreek> {
  exact: Hedge<Name>;
  found: Hedge<Name>;
  /** The largest share of a Greek that is left, after rounding alone and after looking around it. */
  leftRounded: number;
  leftFound: number;
}

/** The largest share that is left of the Greeks that are to be nothing; of one that was nothing, in units of the largest instrument. */
function shareLeft<Name extends string>(
  { residual }: Hedge<Name>,
  { exposure, instruments, neutralize: names }: HedgeRequest<Name>,
): number {
  const shares = names
    .filter((name) => name !== 'delta')
    .map((name) => {
      const size = Math.abs(exposure[name]) || Math.max(...instruments.map((one) => Math.abs(one[name])));
      return size > 0 ? Math.abs(residual[name]) / size : 0;
    });
  return Math.max(0, ...shares);
}

/**
 * A hedge in whole numbers: of all quantities within two of those that are wanted the ones that leave the least, as a share of what
 * each Greek was; the underlying takes the delta of whatever they are.
 */
export function neutralizeWhole<Name extends string>(
  request: Omit<HedgeRequest<Name>, 'whole'>,
): WholeHedge<Name> | HedgeRefused {
  const exact = neutralize<Name>({ ...request, whole: false });
  if ('refused' in exact) return exact;
  const asked = { ...request, whole: true };
  const options = exact.steps.filter(({ id }) => id !== UNDERLYING_ID);
  const tried = (quantities: readonly number[]) =>
    hedgeBy(
      asked,
      options.map(({ id }, i) => ({ id, quantity: quantities[i]! })),
    );
  const wanted = options.map(({ quantity }) => toWhole(quantity));
  const rounded = tried(wanted);
  const leftRounded = shareLeft(rounded, asked);
  let [found, leftFound] = [rounded, leftRounded];
  const from = wanted.length <= MOST_OPTIONS ? (2 * AROUND + 1) ** wanted.length : 0;
  for (let way = 0; way < from; way++) {
    const hedge = tried(
      wanted.map((one, i) => one + (Math.floor(way / (2 * AROUND + 1) ** i) % (2 * AROUND + 1)) - AROUND),
    );
    const left = shareLeft(hedge, asked);
    if (left < leftFound) [found, leftFound] = [hedge, left];
  }
  return { exact, found, leftRounded, leftFound };
}

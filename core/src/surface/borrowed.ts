import { mixtureAt } from './mixture';
import { sviAt, type VarianceAt } from './svi';

/**
 * A curve taken from that of another expiry, which may be of another underlying: read where the other stands at the same
 * place, with custom adjustments.
 */

/** How the places of the two are matched. */
export const BORROW_MAPS = ['forward', 'standardized', 'price'] as const;
export type BorrowMap = (typeof BORROW_MAPS)[number];

/** What somebody says of a borrowed curve. Vols are decimals. */
export interface BorrowTerms {
  /**
   * `forward`: at as many per cent of the forward; `standardized`: at as many deviations, each by the other's vol at the
   * money and its own time; `price`: own strike K stands where the other has ratio·K + offset.
   */
  map: BorrowMap;
  /** For `price`: the other's price over one's own; null takes that of the forwards. */
  ratio: number | null;
  /** For `price`, in the other's money. */
  offset: number;
  /** Added at every place. */
  volShift: number;
  /** Added for one deviation over the forward, taken off for one under it, levelling off at three. */
  slope: number;
  /** Added for the square of one deviation either side, levelling off likewise. */
  curvature: number;
}

export const PLAIN_BORROW: BorrowTerms = {
  map: 'forward',
  ratio: null,
  offset: 0,
  volShift: 0,
  slope: 0,
  curvature: 0,
};

/** The parts of the parameters, in their order; those of the other curve follow. */
const IS_MIXTURE = 0;
const OTHER_YEARS = 1;
const SCALE = 2;
const RATIO = 3;
const OFFSET = 4;
const SHIFT = 5;
const SLOPE = 6;
const CURVATURE = 7;
const DEVIATIONS = 8;
const OWN_YEARS = 9;
const HEAD = 10;

/** What is known of the other curve. */
interface Lender {
  readonly kind: string;
  readonly years: number;
  readonly forward: number;
  readonly parameters: readonly number[];
}

/**
 * Parameters of the curve that is borrowed.
 *
 * @param atmVol the other's vol at its forward, a decimal
 * @throws RangeError where the other is itself borrowed, or the ratio is not positive
 */
export function borrowedParameters(
  other: Lender,
  atmVol: number,
  own: { years: number; forward: number },
  terms: BorrowTerms,
): number[] {
  if (other.kind === 'borrowed') throw new RangeError('what is borrowed cannot be lent');
  const ratio = terms.ratio ?? other.forward / own.forward;
  if (terms.map === 'price' && !(ratio > 0)) throw new RangeError('the ratio of the prices must be positive');
  const otherDeviation = atmVol * Math.sqrt(other.years);
  const deviation = (atmVol + terms.volShift) * Math.sqrt(own.years);
  const head = new Array<number>(HEAD).fill(0);
  head[IS_MIXTURE] = other.kind === 'mixture' ? 1 : 0;
  head[OTHER_YEARS] = other.years;
  head[SCALE] = terms.map === 'standardized' ? otherDeviation / deviation : 1;
  head[RATIO] = terms.map === 'price' ? (ratio * own.forward) / other.forward : 0;
  head[OFFSET] = terms.map === 'price' ? terms.offset / other.forward : 0;
  head[SHIFT] = terms.volShift;
  head[SLOPE] = terms.slope;
  head[CURVATURE] = terms.curvature;
  head[DEVIATIONS] = 1 / deviation;
  head[OWN_YEARS] = own.years;
  return [...head, ...other.parameters];
}

const LEAST_VOL = 1e-3;
/** Deviations at which the adjustments level off. */
const LEVEL = 3;

/** So many deviations, levelling off at three either side: u = z/√(1 + z²/9). */
export function levelledOff(z: number): number {
  return z / Math.sqrt(1 + (z * z) / (LEVEL * LEVEL));
}

/** A strike of the other that is not over this share of its forward is none. */
const LEAST_STRIKE = 1e-6;

const OTHER: VarianceAt = { w: 0, slope: 0, curvature: 0 };
/** The other's parameters, which are read at every point, cut out once. */
const CUT = new WeakMap<readonly number[], readonly number[]>();

function othersOf(parameters: readonly number[]): readonly number[] {
  let cut = CUT.get(parameters);
  if (!cut) CUT.set(parameters, (cut = parameters.slice(HEAD)));
  return cut;
}

/** Total variance of a borrowed curve and its derivatives to k. */
export function borrowedAt(parameters: readonly number[], k: number, out: VarianceAt): VarianceAt {
  const ratio = parameters[RATIO]!;
  // Where the other is read, and how that place moves with k.
  let place = parameters[SCALE]! * k;
  let speed = parameters[SCALE]!;
  let bent = 0;
  if (ratio > 0) {
    const part = ratio * Math.exp(k);
    const strike = Math.max(part + parameters[OFFSET]!, LEAST_STRIKE);
    place = Math.log(strike);
    speed = part / strike;
    bent = speed * (1 - speed);
  }
  const lent = othersOf(parameters);
  const { w, slope, curvature } =
    parameters[IS_MIXTURE] === 1 ? mixtureAt(lent, place, OTHER) : sviAt(lent, place, OTHER);
  const otherYears = parameters[OTHER_YEARS]!;
  const vol = Math.sqrt(w / otherYears);
  const rise = slope / (2 * vol * otherYears);
  const curl = curvature / (2 * vol * otherYears) - (rise * rise) / vol;
  // The adjustments run over u = z/√(1 + z²/9), which never passes three.
  const c = parameters[DEVIATIONS]!;
  const z = c * k;
  const root = 1 / Math.sqrt(1 + (z * z) / (LEVEL * LEVEL));
  const u = z * root;
  const u1 = c * root ** 3;
  const u2 = (-z / 3) * c * c * root ** 5;
  const [a, b] = [parameters[SLOPE]!, parameters[CURVATURE]!];
  const years = parameters[OWN_YEARS]!;
  const sigma = vol + parameters[SHIFT]! + a * u + b * u * u;
  if (sigma <= LEAST_VOL) {
    out.w = LEAST_VOL * LEAST_VOL * years;
    out.slope = 0;
    out.curvature = 0;
    return out;
  }
  const sigma1 = rise * speed + (a + 2 * b * u) * u1;
  const sigma2 = curl * speed * speed + rise * bent + (a + 2 * b * u) * u2 + 2 * b * u1 * u1;
  out.w = sigma * sigma * years;
  out.slope = 2 * sigma * sigma1 * years;
  out.curvature = 2 * (sigma1 * sigma1 + sigma * sigma2) * years;
  return out;
}

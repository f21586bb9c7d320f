import { quantileOf } from '../distributions';
import { surfaceVol, type Surface } from './surface';

/**
 * The curve of a maturity on the standardized axis, whatever expiries were listed: vols at z deviations from the forward,
 * k = z·σ(0, T)·√T.
 *
 * @param years the maturity
 * @param out vols, decimals, one by z; NaN everywhere where the maturity is out of reach
 * @returns whether the surface reaches the maturity: no further than a tenth over its last expiry, no nearer than half of
 *   its first one
 */
export function standardizedVols(
  surface: Surface,
  years: number,
  z: ArrayLike<number>,
  out: Float64Array<ArrayBuffer>,
): boolean {
  if (!reaches(surface, years)) {
    out.fill(NaN);
    return false;
  }
  const deviation = surfaceVol(surface, 0, years) * Math.sqrt(years);
  for (let i = 0; i < z.length; i++) out[i] = surfaceVol(surface, z[i]! * deviation, years);
  return true;
}

/** Beyond its last expiry and before its first one a surface only repeats itself. */
const FARTHEST = 1.1;
const NEAREST = 0.5;

/** Whether a surface says something of its own about a maturity. */
export function reaches({ curves }: Surface, years: number): boolean {
  const [first, last] = [curves[0], curves.at(-1)];
  return first !== undefined && years >= NEAREST * first.years && years <= FARTHEST * last!.years;
}

/**
 * Quantiles by column.
 *
 * @param rows of equal length, NaN for what there is not
 * @param shares 0…1
 * @returns a row for each share
 */
export function quantileRows(rows: readonly Float64Array[], shares: readonly number[]): Float64Array[] {
  const columns = rows[0]?.length ?? 0;
  const out = shares.map(() => new Float64Array(columns).fill(NaN));
  for (let column = 0; column < columns; column++) {
    const held = Float64Array.from(rows.map((row) => row[column]!).filter(Number.isFinite)).sort();
    shares.forEach((share, i) => (out[i]![column] = quantileOf(held, share)));
  }
  return out;
}

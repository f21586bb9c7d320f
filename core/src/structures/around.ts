import type { ExpiryFit } from '../chain';
import { expiriesApart, stretchesOf } from '../surface';
import type { EventVariance } from './scenario';

/**
 * What announcements to come carry of the variance that the expiries imply: what is over the ambient rate of the quiet stretches
 * around them.
 *
 * @param events moments in years from the as-of; what is over counts nothing
 */
export function eventVariances(fits: readonly ExpiryFit[], events: readonly number[]): EventVariance[] {
  const used = fits
    .filter(({ curve, expiryAside, years }) => curve !== null && expiryAside === null && years > 0)
    .sort((a, b) => a.years - b.years);
  const points = expiriesApart(used).map(({ years, atmVol }) => ({ years, variance: atmVol * atmVol * years }));
  const coming = events.filter((at) => at > 0);
  return stretchesOf(points, coming).flatMap((stretch) =>
    stretch.events.map((years) => ({ years, variance: stretch.perEvent })),
  );
}

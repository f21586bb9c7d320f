/** How far apart the forwards of inverse pairs may be, as a logarithm: their quotes are not of one instant. */
const APART = 0.05;

/**
 * Whether two currency pairs are each other turned round: a call on one is a put on the other at the inverse strike, so
 * its skew is mirrored.
 */
export function isInverse(
  [kind, otherKind]: readonly [string | undefined, string | undefined],
  [forward, otherForward]: readonly [number | undefined, number | undefined],
): boolean {
  if (kind !== 'fx' || otherKind !== 'fx' || forward === undefined || otherForward === undefined) return false;
  return Math.abs(Math.log(forward * otherForward)) < APART;
}

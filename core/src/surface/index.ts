/**
 * Surface: the curve of an expiry, its fit, and what is read from one or several curves.
 * Imports distributions.
 */
export { curveVol, curveSlope, curveVariance, curveDensityFactor, isArbitrageFree, type Curve } from './curve';
export { fitCurve, type CurveFit, type CurvePoints } from './fit';
export { callDelta, deltaSkew, logMoneynessAtDelta, type DeltaSkew } from './delta';
export { constantMaturityVol, forwardVol, termState, type TermPoint, type TermState } from './term';

/**
 * Distributions: exponentials and the normal law at machine precision, quantiles of what is held, roots,
 * quadrature and Chebyshev series.
 * Everything here works on plain numbers and allocates nothing.
 * Imports nothing.
 */
export { exp, log, scaledTail } from './elementary';
export { normalCdf, normalDensity, normalInverse, INV_SQRT_2PI } from './normal';
export { rootBetween } from './root';
export { countUpTo, quantileOf } from './quantile';
export { gaussLegendre } from './quadrature';
export { chebyshevAt, chebyshevPoints, chebyshevSeries, chebyshevSlope } from './chebyshev';

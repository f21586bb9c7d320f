/**
 * Distributions: exponentials and the normal law at machine precision, quantiles of what is held, roots and quadrature.
 * Everything here works on plain numbers and allocates nothing.
 * Imports nothing.
 */
export { exp, log, scaledTail } from './elementary';
export { normalCdf, normalDensity, normalInverse, INV_SQRT_2PI } from './normal';
export { rootBetween } from './root';
export { quantileOf } from './quantile';
export { gaussLegendre } from './quadrature';

import type { BarColumns } from './yang-zhang';

/**
 * Forecasts of vol from past prices. Each says for how many sessions it is meant; none of them is a measurement.
 */

/** Logarithmic returns from close to close, one fewer than closes. */
export function logReturns(close: Float64Array): Float64Array {
  return Float64Array.from({ length: Math.max(0, close.length - 1) }, (_, i) => Math.log(close[i + 1]! / close[i]!));
}

/**
 * Exponentially weighted vol ("RiskMetrics technical document", fourth edition, 1996): the variance of the next
 * session is λ times the last one's and 1 − λ times its squared return, and so is that of any later session. It starts with
 * the mean square of the first returns.
 *
 * @param lambda the decay of a session, 0.94 in the document for daily returns
 * @returns a vol of a year as a decimal; NaN without returns
 * @example ewmaVol([0.01, -0.01, 0.01]) // 0.1587
 */
export function ewmaVol(returns: ArrayLike<number>, lambda = 0.94, periodsPerYear = 252): number {
  const start = Math.min(returns.length, 20);
  if (start === 0) return NaN;
  let variance = 0;
  for (let i = 0; i < start; i++) variance += returns[i]! ** 2 / start;
  for (let i = start; i < returns.length; i++) variance = lambda * variance + (1 - lambda) * returns[i]! ** 2;
  return Math.sqrt(variance * periodsPerYear);
}

/** Parameters of a GARCH(1,1), by session: h' = omega + alpha·r² + beta·h. */
export interface Garch {
  omega: number;
  alpha: number;
  beta: number;
  /** Variance of the session after the last return. */
  next: number;
  /** Logarithm of the likelihood of the returns, normal ones. */
  logLikelihood: number;
}

/** Logarithm of the likelihood and the variance after the last return; the first variance is the mean square. */
function garchRun(returns: Float64Array, omega: number, alpha: number, beta: number) {
  let variance = 0;
  for (const value of returns) variance += (value * value) / returns.length;
  let logLikelihood = 0;
  for (const value of returns) {
    logLikelihood -= 0.5 * (Math.log(2 * Math.PI * variance) + (value * value) / variance);
    variance = omega + alpha * value * value + beta * variance;
  }
  return { logLikelihood, next: variance };
}

const LEAST_RETURNS = 100;
/** The persistence of a variance that comes back to its mean. */
const MOST_PERSISTENCE = 0.9999;

/**
 * GARCH(1,1) without a mean (T. Bollerslev, "Generalized autoregressive conditional heteroskedasticity", 1986) by maximum
 * likelihood: the three parameters are searched in coordinates in which every place is allowed (their sum under one), by the
 * simplex of J. Nelder and R. Mead (1965) from several starts.
 *
 * @returns null with fewer than 100 returns, or where they do not move
 */
export function fitGarch(returns: Float64Array): Garch | null {
  const mean = returns.reduce((sum, value) => sum + (value * value) / returns.length, 0);
  if (returns.length < LEAST_RETURNS || !(mean > 0)) return null;
  const logistic = (x: number) => 1 / (1 + Math.exp(-x));
  const logit = (p: number) => Math.log(p / (1 - p));
  // The level over the mean square, the persistence, and the share of it that is alpha's.
  const parametersOf = ([level, persistence, share]: readonly number[]) => {
    const both = MOST_PERSISTENCE * logistic(persistence!);
    const alpha = both * logistic(share!);
    return { omega: mean * Math.exp(level!) * (1 - both), alpha, beta: both - alpha };
  };
  const cost = (place: readonly number[]) => {
    const { omega, alpha, beta } = parametersOf(place);
    return -garchRun(returns, omega, alpha, beta).logLikelihood;
  };
  let best: { place: number[]; cost: number } | null = null;
  for (const [persistence, share] of [
    [0.95, 0.1],
    [0.8, 0.2],
    [0.99, 0.05],
  ] as const) {
    const found = simplexMinimum(cost, [0, logit(persistence), logit(share)]);
    if (!best || found.cost < best.cost) best = found;
  }
  const { omega, alpha, beta } = parametersOf(best!.place);
  return { omega, alpha, beta, ...garchRun(returns, omega, alpha, beta) };
}

/**
 * The vol that a GARCH(1,1) expects over the next sessions: the mean of the variances ahead, each nearer to the long run by
 * the persistence.
 *
 * @param sessions the horizon, at least 1
 */
export function garchVol({ omega, alpha, beta, next }: Garch, sessions: number, periodsPerYear = 252): number {
  const persistence = alpha + beta;
  const long = omega / (1 - persistence);
  const share = (1 - persistence ** sessions) / (sessions * (1 - persistence));
  return Math.sqrt((long + share * (next - long)) * periodsPerYear);
}

/** The least value that a simplex of Nelder and Mead comes to. */
function simplexMinimum(cost: (place: readonly number[]) => number, start: readonly number[]) {
  const STEP = 0.5;
  const MOST_TURNS = 600;
  const CLOSE = 1e-10;
  const at = (place: number[]) => ({ place, cost: cost(place) });
  const corners = [
    at([...start]),
    ...start.map((_, i) => at(start.map((value, j) => (i === j ? value + STEP : value)))),
  ];
  for (let turn = 0; turn < MOST_TURNS; turn++) {
    corners.sort((a, b) => a.cost - b.cost);
    const [best, worst] = [corners[0]!, corners.at(-1)!];
    if (worst.cost - best.cost < CLOSE * (1 + Math.abs(best.cost))) break;
    const others = corners.slice(0, -1);
    const centre = start.map((_, i) => others.reduce((sum, { place }) => sum + place[i]! / others.length, 0));
    const along = (by: number) => at(centre.map((value, i) => value + by * (worst.place[i]! - value)));
    const mirrored = along(-1);
    if (mirrored.cost < best.cost) {
      const farther = along(-2);
      corners[corners.length - 1] = farther.cost < mirrored.cost ? farther : mirrored;
    } else if (mirrored.cost < others.at(-1)!.cost) corners[corners.length - 1] = mirrored;
    else {
      const nearer = along(mirrored.cost < worst.cost ? -0.5 : 0.5);
      if (nearer.cost < Math.min(worst.cost, mirrored.cost)) corners[corners.length - 1] = nearer;
      else
        for (let i = 1; i < corners.length; i++)
          corners[i] = at(corners[i]!.place.map((value, j) => best.place[j]! + 0.5 * (value - best.place[j]!)));
    }
  }
  return corners.sort((a, b) => a.cost - b.cost)[0]!;
}

/**
 * Variance of each session by its own bar: the square of the overnight return and the range's variance by Garman and Klass.
 * The first has no night before it and is NaN.
 */
export function sessionVariances({ open, high, low, close }: BarColumns): Float64Array {
  return Float64Array.from(close, (end, i) => {
    if (i === 0) return NaN;
    const night = Math.log(open[i]! / close[i - 1]!);
    const range = Math.log(high[i]! / low[i]!);
    const day = Math.log(end / open[i]!);
    return night * night + Math.max(0, 0.5 * range * range - (2 * Math.LN2 - 1) * day * day);
  });
}

/** Coefficients of the regression: a constant, and the mean variances of the last session, week and month. */
export type Har = readonly [constant: number, day: number, week: number, month: number];

const WEEK = 5;
const MONTH = 22;

function harTerms(variances: Float64Array, i: number): [number, number, number, number] {
  const mean = (count: number) => {
    let sum = 0;
    for (let j = i - count + 1; j <= i; j++) sum += variances[j]!;
    return sum / count;
  };
  return [1, variances[i]!, mean(WEEK), mean(MONTH)];
}

/**
 * The heterogeneous autoregressive model (F. Corsi, "A simple approximate long-memory model of realized volatility", 2009):
 * the mean variance over the next sessions regressed by least squares on that of the last session, five and twenty-two. The
 * paper takes variances from inside the sessions; here a session's own bar stands for them.
 *
 * @param variances by session
 * @param sessions the horizon, at least 1
 * @returns null where too few sessions are held, or nothing moves
 */
export function fitHar(variances: Float64Array, sessions: number): Har | null {
  const rows: { terms: number[]; ahead: number }[] = [];
  for (let i = MONTH - 1; i + sessions < variances.length; i++) {
    const terms = harTerms(variances, i);
    let ahead = 0;
    for (let j = i + 1; j <= i + sessions; j++) ahead += variances[j]! / sessions;
    if (terms.every(Number.isFinite) && Number.isFinite(ahead)) rows.push({ terms, ahead });
  }
  if (rows.length < LEAST_RETURNS) return null;
  // Variances are small: by their mean the equations are even.
  const unit = rows.reduce((sum, { ahead }) => sum + ahead / rows.length, 0);
  if (!(unit > 0)) return null;
  const scaled = rows.map(({ terms: [one, ...rest], ahead }) => ({
    terms: [one!, ...rest.map((value) => value / unit)],
    ahead: ahead / unit,
  }));
  const matrix = [0, 1, 2, 3].map((i) => [
    ...[0, 1, 2, 3].map((j) => scaled.reduce((sum, { terms }) => sum + terms[i]! * terms[j]!, 0)),
    scaled.reduce((sum, { terms, ahead }) => sum + terms[i]! * ahead, 0),
  ]);
  const solved = solvedBy(matrix);
  return solved && [solved[0]! * unit, solved[1]!, solved[2]!, solved[3]!];
}

/** Solves linear equations by elimination with pivots; null where they do not stand apart. */
function solvedBy(rows: number[][]): number[] | null {
  const n = rows.length;
  for (let i = 0; i < n; i++) {
    let pivot = i;
    for (let j = i + 1; j < n; j++) if (Math.abs(rows[j]![i]!) > Math.abs(rows[pivot]![i]!)) pivot = j;
    [rows[i], rows[pivot]] = [rows[pivot]!, rows[i]!];
    if (!(Math.abs(rows[i]![i]!) > 1e-12)) return null;
    for (let j = 0; j < n; j++) {
      if (j === i) continue;
      const by = rows[j]![i]! / rows[i]![i]!;
      for (let k = i; k <= n; k++) rows[j]![k]! -= by * rows[i]![k]!;
    }
  }
  return rows.map((row, i) => row[n]! / row[i]!);
}

/** The vol that the model expects over its horizon after the last session; NaN without a month of sessions. */
export function harVol(har: Har, variances: Float64Array, periodsPerYear = 252): number {
  if (variances.length < MONTH) return NaN;
  const terms = harTerms(variances, variances.length - 1);
  const variance = terms.reduce((sum, value, i) => sum + value * har[i]!, 0);
  return Math.sqrt(Math.max(0, variance) * periodsPerYear);
}

import { describe, expect, it } from 'vitest';
import { ewmaVol, fitGarch, fitHar, garchVol, harVol, logReturns, sessionVariances, type Garch } from '.';
import { gaussians } from './testing';

/** Returns of a GARCH(1,1) with known parameters. */
function simulated(count: number, { omega, alpha, beta }: Pick<Garch, 'omega' | 'alpha' | 'beta'>, seed = 3) {
  const random = gaussians(seed);
  let variance = omega / (1 - alpha - beta);
  return Float64Array.from({ length: count }, () => {
    const value = Math.sqrt(variance) * random();
    variance = omega + alpha * value * value + beta * variance;
    return value;
  });
}

describe('exponentially weighted vol', () => {
  it('by hand: the start is a mean, then each return has its weight', () => {
    const returns = [...Array<number>(20).fill(0.01), 0.03, 0.02];
    const first = 0.94 * 0.0001 + 0.06 * 0.0009;
    expect(ewmaVol(returns, 0.94, 1)).toBeCloseTo(Math.sqrt(0.94 * first + 0.06 * 0.0004), 14);
    expect(ewmaVol([0.01, 0.01], 0.94, 252)).toBeCloseTo(0.01 * Math.sqrt(252), 14);
    expect(ewmaVol([])).toBeNaN();
  });
});

describe('GARCH(1,1)', () => {
  const truth = { omega: 2e-6, alpha: 0.08, beta: 0.9 };
  const returns = simulated(12_000, truth);
  const fit = fitGarch(returns)!;
  it('finds the parameters of a simulated series again', () => {
    expect(Math.abs(fit.alpha - truth.alpha)).toBeLessThan(0.015);
    expect(Math.abs(fit.beta - truth.beta)).toBeLessThan(0.02);
    expect(Math.abs(Math.log(fit.omega / (1 - fit.alpha - fit.beta) / 1e-4))).toBeLessThan(0.2);
  });
  it('is the most likely: no other parameters near it make the returns likelier, nor do the true ones', () => {
    // The likelihood of others, written out.
    const likelihood = ({ omega, alpha, beta }: Pick<Garch, 'omega' | 'alpha' | 'beta'>) => {
      let variance = returns.reduce((sum, value) => sum + value * value, 0) / returns.length;
      let sum = 0;
      for (const value of returns) {
        sum -= 0.5 * (Math.log(2 * Math.PI * variance) + value ** 2 / variance);
        variance = omega + alpha * value ** 2 + beta * variance;
      }
      return sum;
    };
    expect(likelihood(fit)).toBeCloseTo(fit.logLikelihood, 6);
    expect(fit.logLikelihood).toBeGreaterThan(likelihood(truth));
    for (const name of ['omega', 'alpha', 'beta'] as const)
      for (const by of [0.99, 1.01])
        expect(likelihood({ ...fit, [name]: fit[name] * by }), `${name} ${by}`).toBeLessThan(fit.logLikelihood + 1e-6);
  });
  it('expects the next variance for a session and the long run for many, and all between', () => {
    expect(garchVol(fit, 1, 1)).toBeCloseTo(Math.sqrt(fit.next), 12);
    const long = fit.omega / (1 - fit.alpha - fit.beta);
    expect(garchVol(fit, 1e6, 1)).toBeCloseTo(Math.sqrt(long), 5);
    // The mean of the variances ahead, one after the other.
    let [variance, sum] = [fit.next, 0];
    for (let i = 0; i < 21; i++) {
      sum += variance;
      variance = fit.omega + (fit.alpha + fit.beta) * variance;
    }
    expect(garchVol(fit, 21, 252)).toBeCloseTo(Math.sqrt((252 * sum) / 21), 12);
  });
  it('is not fitted to too little, or to a price that stands still', () => {
    expect(fitGarch(returns.slice(0, 99))).toBeNull();
    expect(fitGarch(new Float64Array(500))).toBeNull();
    expect(logReturns(Float64Array.of(1, Math.E))).toEqual(Float64Array.of(1));
  });
});

describe('HAR', () => {
  const random = gaussians(5);
  const truth = { constant: 1e-5, day: 0.35, week: 0.3, month: 0.2 };
  const variances = new Float64Array(20_000).fill(1e-4);
  for (let i = 22; i < variances.length; i++) {
    const mean = (count: number) => variances.slice(i - count, i).reduce((sum, value) => sum + value / count, 0);
    const expected = truth.constant + truth.day * mean(1) + truth.week * mean(5) + truth.month * mean(22);
    variances[i] = expected * Math.exp(0.4 * random() - 0.08);
  }
  it('finds the weights of a simulated series again, and forecasts by them', () => {
    const har = fitHar(variances, 1)!;
    expect(har[0]).toBeCloseTo(truth.constant, 5);
    expect(Math.abs(har[1] - truth.day)).toBeLessThan(0.04);
    expect(Math.abs(har[2] - truth.week)).toBeLessThan(0.06);
    expect(Math.abs(har[3] - truth.month)).toBeLessThan(0.06);
    const last = (count: number) => variances.slice(-count).reduce((sum, value) => sum + value / count, 0);
    const forecast = har[0] + har[1] * last(1) + har[2] * last(5) + har[3] * last(22);
    expect(harVol(har, variances, 252)).toBeCloseTo(Math.sqrt(252 * forecast), 12);
  });
  it('misses by nothing that its terms could still explain: the normal equations hold', () => {
    const har = fitHar(variances, 5)!;
    const sums = [0, 0, 0, 0];
    let count = 0;
    for (let i = 21; i + 5 < variances.length; i++) {
      const mean = (length: number) =>
        variances.slice(i - length + 1, i + 1).reduce((sum, value) => sum + value / length, 0);
      const terms = [1, mean(1), mean(5), mean(22)];
      const ahead = variances.slice(i + 1, i + 6).reduce((sum, value) => sum + value / 5, 0);
      const miss = ahead - terms.reduce((sum, term, j) => sum + term * har[j]!, 0);
      terms.forEach((term, j) => (sums[j]! += miss * term));
      count++;
    }
    expect(Math.abs(sums[0]! / count)).toBeLessThan(1e-15);
    for (const sum of sums.slice(1)) expect(Math.abs(sum / count)).toBeLessThan(1e-18);
  });
  it('needs a hundred sessions, and variances by session are nights and ranges', () => {
    expect(fitHar(variances.slice(0, 100), 5)).toBeNull();
    expect(fitHar(new Float64Array(500), 5)).toBeNull();
    expect(harVol([0, 1, 0, 0], variances.slice(0, 21))).toBeNaN();
    const column = (...values: number[]) => Float64Array.from(values);
    const bars = { open: column(100, 101), high: column(100, 103), low: column(100, 100), close: column(100, 102) };
    const found = sessionVariances(bars);
    expect(found[0]).toBeNaN();
    expect(found[1]).toBeCloseTo(
      Math.log(1.01) ** 2 + 0.5 * Math.log(1.03) ** 2 - (2 * Math.LN2 - 1) * Math.log(102 / 101) ** 2,
      14,
    );
  });
});

/** Abscissae and weights of Gauss and Legendre on (0, 1), by Newton's method on the polynomial. */
export function gaussLegendre(count: number): { x: Float64Array; weight: Float64Array } {
  const x = new Float64Array(count);
  const weight = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    let z = Math.cos((Math.PI * (i + 0.75)) / (count + 0.5));
    let slope = 1;
    for (let step = 0; step < 100; step++) {
      let [before, value] = [1, z];
      for (let j = 2; j <= count; j++) [before, value] = [value, ((2 * j - 1) * z * value - (j - 1) * before) / j];
      slope = (count * (z * value - before)) / (z * z - 1);
      const move = value / slope;
      z -= move;
      if (Math.abs(move) < 1e-16) break;
    }
    x[i] = (1 + z) / 2;
    weight[i] = 1 / ((1 - z * z) * slope * slope);
  }
  return { x, weight };
}

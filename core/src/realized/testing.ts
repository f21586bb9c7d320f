/** Normal numbers that are the same in every run, by G. Box and M. Muller's rule over a small generator. */
export function gaussians(seed: number): () => number {
  let state = seed >>> 0;
  // Mulberry32, a generator of 32 bits that passes what a test needs (T. Ettinger, public domain).
  const uniform = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
  let spare = NaN;
  return () => {
    if (!Number.isNaN(spare)) {
      const held = spare;
      spare = NaN;
      return held;
    }
    const radius = Math.sqrt(-2 * Math.log(1 - uniform()));
    const angle = 2 * Math.PI * uniform();
    spare = radius * Math.sin(angle);
    return radius * Math.cos(angle);
  };
}

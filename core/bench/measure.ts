/** What the benchmarks share: the generator of their inputs, and how a line is measured. */

/** splitmix64 (G. Steele, D. Lea and C. Flood, "Fast splittable pseudorandom number generators", 2014). */
export class SplitMix64 {
  private state: bigint;

  constructor(seed: number) {
    this.state = BigInt(seed);
  }

  /** An integer from 0 to n − 1. */
  pick(n: number): number {
    const mask = 0xffffffffffffffffn;
    this.state = (this.state + 0x9e3779b97f4a7c15n) & mask;
    let z = this.state;
    z = ((z ^ (z >> 30n)) * 0xbf58476d1ce4e5b9n) & mask;
    z = ((z ^ (z >> 27n)) * 0x94d049bb133111ebn) & mask;
    z ^= z >> 31n;
    return Math.floor((Number(z >> 32n) * n) / 2 ** 32);
  }
}

/**
 * The best of several passes over all items, as a line of JSON.
 *
 * @param work one pass
 * @param checksum of what the last pass left
 */
export function measure(name: string, items: number, passes: number, work: () => void, checksum: () => number): void {
  let best = Infinity;
  for (let pass = 0; pass < passes; pass++) {
    const begun = process.hrtime.bigint();
    work();
    best = Math.min(best, Number(process.hrtime.bigint() - begun) * 1e-9);
  }
  const seconds = Number(best.toFixed(6));
  console.log(JSON.stringify({ name, items, seconds, itemsPerSecond: Math.round(items / best), checksum: checksum() }));
}

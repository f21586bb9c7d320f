/** Lines that are wanted, by formula, until they are asked for together. */
export class LineQueue {
  private wanted = new Map<string, Set<string>>();

  add(formula: string, symbol: string): void {
    const symbols = this.wanted.get(formula);
    if (symbols) symbols.add(symbol);
    else this.wanted.set(formula, new Set([symbol]));
  }

  clear(): void {
    this.wanted.clear();
  }

  /** Returns the pending requests and clears them. */
  take(): { formula: string; symbols: string[] }[] {
    const taken = Array.from(this.wanted, ([formula, symbols]) => ({ formula, symbols: [...symbols] }));
    this.clear();
    return taken;
  }
}

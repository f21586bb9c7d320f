const MOST_STEPS = 100;

/** What was done to something, to be undone and done again. */
export class Steps<T> {
  private past = $state.raw<readonly T[]>([]);
  private future = $state.raw<readonly T[]>([]);
  private current = $state.raw<T | null>(null);

  /** What it is now; null before anything was taken. */
  get now(): T | null {
    return this.current;
  }

  readonly canUndo = $derived.by(() => this.past.length > 0);
  readonly canRedo = $derived.by(() => this.future.length > 0);
  /** As it was before the first step that is held. */
  readonly first = $derived.by(() => this.past[0] ?? this.current);

  /** Takes what it is now as a step, unless it is what it was; what had been undone is forgotten. */
  take(value: T): void {
    if (this.current !== null) {
      if (JSON.stringify(this.current) === JSON.stringify(value)) return;
      this.past = [...this.past, this.current].slice(-MOST_STEPS);
    }
    this.current = value;
    this.future = [];
  }

  /** What it was a step ago; null where there is none. */
  undo(): T | null {
    const before = this.past.at(-1);
    if (before === undefined || this.current === null) return null;
    this.future = [this.current, ...this.future];
    this.past = this.past.slice(0, -1);
    this.current = before;
    return before;
  }

  /** What it was before it was undone; null where nothing was. */
  redo(): T | null {
    const [next, ...rest] = this.future;
    if (next === undefined || this.current === null) return null;
    this.past = [...this.past, this.current];
    this.future = rest;
    this.current = next;
    return next;
  }

  /** Begins anew with something else. */
  restart(value: T): void {
    this.past = [];
    this.future = [];
    this.current = value;
  }
}

import { SvelteMap } from 'svelte/reactivity';
import { LineQueue } from './line-queue';
import { askScreen } from './results';

const SESSIONS = 252;
/** Idle delay before lines are requested together, in milliseconds: rows pass quickly while the table scrolls. */
const GATHER_MS = 60;

/** Lines of formulas by session, asked for as rows come into view. */
export class Lines {
  private readonly known = new SvelteMap<string, readonly (number | null)[]>();
  private readonly queue = new LineQueue();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private asof: string | null = null;
  /** Raised when earlier requests are out of date. */
  private edition = 0;

  /** Forgets all of them: they are those of another moment, or of other data. */
  forget(asof: string | null): void {
    this.edition++;
    this.asof = asof;
    this.known.clear();
    this.queue.clear();
  }

  /** The line of an underlying; null until it is there. */
  of(formula: string, symbol: string): readonly (number | null)[] | null {
    return this.known.get(`${formula} ${symbol}`) ?? null;
  }

  /** Wants a line, which comes together with the others that are wanted at the same time. */
  want(formula: string, symbol: string): void {
    this.queue.add(formula, symbol);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.fetch(), GATHER_MS);
  }

  private fetch(): void {
    const { edition, asof } = this;
    for (const { formula, symbols } of this.queue.take()) {
      askScreen(asof, { series: [formula], sessions: SESSIONS, symbols }).then(
        ({ rows }) => {
          if (edition !== this.edition) return;
          for (const { symbol, series } of rows) this.known.set(`${formula} ${symbol}`, series[0]!);
        },
        // A line that does not come is left out: the numbers beside it are what counts.
        () => undefined,
      );
    }
  }
}

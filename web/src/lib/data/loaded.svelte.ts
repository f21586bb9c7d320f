/** What went wrong, for people. */
export const problemOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/**
 * What is loaded, and loaded again when what it is asked by changes: an answer that comes after something newer was asked is
 * dropped, and its request told so. What was loaded stays until the new is there. Made where effects may be made: by a
 * component as it starts, or by what one makes.
 */
export class Loaded<T> {
  /** The last answer; null before the first, and where nothing is asked. */
  value = $state.raw<T | null>(null);
  /** What is wrong with the last request; null while it is under way or has been answered. */
  problem = $state<string | null>(null);
  private attempts = $state(0);

  /**
   * @param ask starts a request; what it reads before it waits is what it depends on. Null where there is nothing to ask,
   *   undefined where what is there stays
   * @param take called with each answer that is not stale
   * @param options.every milliseconds after an answer or a failure until it is asked again
   */
  constructor(
    ask: (signal: AbortSignal) => Promise<T> | null | undefined,
    take?: (answer: T) => void,
    { every }: { every?: number } = {},
  ) {
    $effect(() => {
      void this.attempts;
      const controller = new AbortController();
      const { signal } = controller;
      const request = ask(signal);
      if (request === undefined) return;
      this.problem = null;
      if (request === null) {
        this.value = null;
        return;
      }
      request.then(
        (answer) => {
          if (signal.aborted) return;
          this.value = answer;
          take?.(answer);
        },
        (error: unknown) => {
          if (signal.aborted) return;
          this.problem = problemOf(error);
        },
      );
      let timer: ReturnType<typeof setTimeout> | undefined;
      if (every !== undefined)
        void request
          .catch(() => undefined)
          .then(() => {
            if (!signal.aborted) timer = setTimeout(() => this.retry(), every);
          });
      return () => {
        controller.abort();
        clearTimeout(timer);
      };
    });
  }

  /** Asks once more. */
  retry(): void {
    this.attempts++;
  }
}

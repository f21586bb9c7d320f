import { problemOf } from './loaded.svelte';

/**
 * Lets one question at a time through, and of those that came meanwhile the newest: a slow answer does not hold up a quick
 * hand.
 */
export class Latest<T> {
  private isAsking = false;
  private next: (() => Promise<T>) | null = null;
  private isStopped = false;

  /** @param take the answers, in order */
  constructor(
    private readonly take: (answer: T) => void,
    private readonly fail: (problem: string) => void,
  ) {}

  ask(question: () => Promise<T>): void {
    if (this.isStopped) return;
    this.next = question;
    if (!this.isAsking) void this.work();
  }

  /** What still comes is of no use to anybody: who asked is gone. Meant for the end of an effect. */
  readonly stop = (): void => {
    this.isStopped = true;
    this.next = null;
  };

  private async work(): Promise<void> {
    this.isAsking = true;
    while (this.next) {
      const question = this.next;
      this.next = null;
      try {
        const answer = await question();
        if (!this.next && !this.isStopped) this.take(answer);
      } catch (error) {
        if (!this.isStopped) this.fail(problemOf(error));
      }
    }
    this.isAsking = false;
  }
}

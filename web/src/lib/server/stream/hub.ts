import { messageOf } from '../errors';
import { Listener } from './listener';

const TICK_MS = 1000;
const ALIVE_MS = 15_000;
const MOST_LISTENERS = 500;

/** Tells all listeners of a process how something goes on, looking once a second as long as somebody listens. */
export abstract class Hub<T> {
  private readonly listeners = new Set<Listener<T>>();
  private timer: ReturnType<typeof setTimeout> | null = null;
  private isTelling = false;
  private aliveAt = 0;
  private complaint = '';

  /** @param name what it tells of, for what is said of its faults */
  constructor(private readonly name: string) {}

  /**
   * Looks at what there is to be told, and says it to those who have not heard it.
   *
   * @returns whether anything was said
   */
  protected abstract tell(listeners: readonly Listener<T>[]): Promise<boolean>;

  /** A stream of server-sent events. Null where as many listen already as there may. */
  listen(topic: T): ReadableStream<Uint8Array> | null {
    if (this.listeners.size >= MOST_LISTENERS) return null;
    const listener = new Listener(topic);
    const stream = listener.stream(() => this.listeners.delete(listener));
    this.listeners.add(listener);
    this.look();
    return stream;
  }

  /** Looks at once: a listener has joined, or what it tells of was changed. */
  look(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    // One at a time; listeners that join meanwhile are served at the next look.
    if (this.isTelling) return;
    this.isTelling = true;
    const started = performance.now();
    this.round()
      .catch((error: unknown) => this.complain(messageOf(error)))
      .finally(() => {
        this.isTelling = false;
        if (this.listeners.size === 0) return;
        const isAwaited = [...this.listeners].some((listener) => listener.isNew);
        const rest = isAwaited ? 0 : Math.max(0, TICK_MS - (performance.now() - started));
        this.timer = setTimeout(() => this.look(), rest);
      });
  }

  private async round(): Promise<void> {
    const listeners = [...this.listeners];
    if (await this.tell(listeners)) this.aliveAt = performance.now();
    else if (performance.now() - this.aliveAt > ALIVE_MS) {
      // A proxy may close an idle connection, so a comment is sent now and then.
      for (const listener of listeners) listener.say('alive', ': still here\n\n');
      this.aliveAt = performance.now();
    }
    this.complaint = '';
  }

  /** Says what is wrong, once as long as it is the same. */
  private complain(words: string): void {
    if (words !== this.complaint) console.error(`${this.name}: ${words}`);
    this.complaint = words;
  }
}

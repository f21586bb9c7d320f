/**
 * A listener. Only the newest message of each kind is queued: a slow reader misses some, and never falls behind.
 */
export class Listener<T> {
  private readonly waiting = new Map<string, string>();
  private controller: ReadableStreamDefaultController<Uint8Array> | null = null;
  private readonly encoder = new TextEncoder();
  /** Nothing has been said to it yet. */
  isNew = true;

  /** @param topic what it wants to hear of */
  constructor(readonly topic: T) {}

  /** The stream of what is said; `onEnd` when nobody reads it any longer. */
  stream(onEnd: () => void): ReadableStream<Uint8Array> {
    return new ReadableStream({
      start: (controller) => {
        this.controller = controller;
      },
      pull: () => this.hand(),
      cancel: () => {
        this.controller = null;
        onEnd();
      },
    });
  }

  /** @param kind what a later message of the same kind replaces */
  say(kind: string, message: string): void {
    this.waiting.set(kind, message);
    this.hand();
  }

  private hand(): void {
    if (!this.controller || (this.controller.desiredSize ?? 0) <= 0 || this.waiting.size === 0) return;
    const all = [...this.waiting.values()].join('');
    // Cleared first: the stream asks for more before it has taken this.
    this.waiting.clear();
    this.controller.enqueue(this.encoder.encode(all));
  }
}

/** A message as server-sent events write it. */
export function message(event: string, data: unknown): string {
  // JSON has no line breaks of its own, so that one line of data is enough.
  return `event: ${event}\ndata: ${JSON.stringify(data)}\n\n`;
}

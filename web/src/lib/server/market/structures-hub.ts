import type { Database } from '../db';
import { messageOf } from '../errors';
import { Listener, message } from '../stream';
import { listStructures, structuresMark } from './structures';

const TICK_MS = 1000;
/** So often they are valued though nothing is known to have changed: curves are fitted again without a new snapshot. */
const AGAIN_MS = 15_000;
const ALIVE_MS = 15_000;
const MOST_LISTENERS = 500;

/** What is told of a moment; null is the latest. */
interface Told {
  mark: string;
  text: string;
  at: number;
}

/** Tells all listeners of a process what kept structures are worth, whenever that changes. Works as long as somebody listens. */
export class StructuresHub {
  private readonly listeners = new Set<Listener<string | null>>();
  private readonly told = new Map<string | null, Told>();
  private timer: ReturnType<typeof setTimeout> | null = null;
  private isTelling = false;
  private aliveAt = 0;
  private complaint = '';

  constructor(private readonly database: Database) {}

  /** A stream of server-sent events: all kept structures, as they are worth at a moment. Null where too many listen. */
  listen(asof: string | null): ReadableStream<Uint8Array> | null {
    if (this.listeners.size >= MOST_LISTENERS) return null;
    const listener = new Listener(asof);
    const stream = listener.stream(() => this.listeners.delete(listener));
    this.listeners.add(listener);
    this.look();
    return stream;
  }

  /** Looks at once: a listener has joined, or a structure was changed. */
  look(): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    if (this.isTelling || this.listeners.size === 0) return;
    this.isTelling = true;
    this.tell()
      .then(
        () => (this.complaint = ''),
        (error: unknown) => this.complain(messageOf(error)),
      )
      .finally(() => {
        this.isTelling = false;
        const isAwaited = [...this.listeners].some(({ isNew }) => isNew);
        if (this.listeners.size > 0) this.timer = setTimeout(() => this.look(), isAwaited ? 0 : TICK_MS);
        else this.told.clear();
      });
  }

  /** Says what is wrong, once as long as it is the same. */
  private complain(words: string): void {
    if (words !== this.complaint) console.error(`kept structures: ${words}`);
    this.complaint = words;
  }

  private async tell(): Promise<void> {
    const mark = await structuresMark(this.database);
    const listeners = [...this.listeners];
    const moments = new Set(listeners.map(({ topic }) => topic));
    for (const asof of this.told.keys()) if (!moments.has(asof)) this.told.delete(asof);
    for (const asof of moments) {
      const before = this.told.get(asof);
      const now = performance.now();
      const isOld = before === undefined || before.mark !== mark || now - before.at > AGAIN_MS;
      const told = isOld ? { mark, at: now, text: await this.textAt(asof) } : before;
      this.told.set(asof, told);
      for (const listener of listeners) {
        if (listener.topic !== asof || (!listener.isNew && told.text === before?.text)) continue;
        listener.say('structures', told.text);
        listener.isNew = false;
        this.aliveAt = now;
      }
    }
    if (performance.now() - this.aliveAt > ALIVE_MS) {
      // A proxy may close an idle connection, so a comment is sent now and then.
      for (const listener of listeners) listener.say('alive', ': still here\n\n');
      this.aliveAt = performance.now();
    }
  }

  private async textAt(asof: string | null): Promise<string> {
    const structures = await listStructures(this.database, asof === null ? undefined : new Date(asof));
    return message('structures', { structures });
  }
}
